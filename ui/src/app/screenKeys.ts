import { useEffect, useEffectEvent } from "react";
import { useNavigate } from "react-router";
import { typing } from "./keys";

/** Where Esc goes from a screen that was opened directly: to the list that it belongs to. */
const lists: [RegExp, string][] = [
  [/^\/letters\//, "/today"],
  [/^\/came\//, "/today"],
  [/^\/people\/./, "/people"],
  [/^\/rounds\/./, "/rounds"],
  [/^\/(plans\/.|runs\/|start)/, "/plans"],
  [/^\/orders\//, "/plans?view=orders"],
  [/^\/rounds/, "/people"],
  [/^\/companies\//, "/companies"],
  [/^\/deals\/./, "/deals"],
  [/^\/(templates\/.|shelf|passages|stationery|documents|library|fields)/, "/templates"],
  [/^\/(me|settings|opt-outs|post-office)/, "/people"],
];

/** What can be stepped through: the first thing to open of each row of the lists on the screen. */
function rows(): HTMLElement[] {
  const found = document.querySelectorAll<HTMLElement>("main li, main tr, main [role=row]");
  const out: HTMLElement[] = [];
  const aside: HTMLElement[] = []; // a list beside what it opens; it counts when there is no other
  for (const row of found) {
    if (row.closest("[role=toolbar], [role=menu], form") || row.querySelector("li")) continue;
    const opens = row.querySelector<HTMLElement>("a[href], button:not([disabled])");
    if (opens && opens.offsetParent !== null) (row.closest("nav") ? aside : out).push(opens);
  }
  return out.length > 0 ? out : aside;
}

function step(by: number) {
  const list = rows();
  const here = list.findIndex((r) => r.closest("li, tr, [role=row]")?.contains(document.activeElement));
  list[here < 0 ? (by > 0 ? 0 : list.length - 1) : Math.max(0, Math.min(list.length - 1, here + by))]?.focus();
}

/** The keys of every screen, where it has none of its own: j and k, / and Esc. */
export function useScreenKeys() {
  const go = useNavigate();
  useEffect(() => {
    const acts: Record<string, () => void> = {
      j: () => step(1),
      k: () => step(-1),
      "/": () => document.querySelector<HTMLInputElement>("main input[type=search], main [role=searchbox]")?.focus(),
    };
    const down = (event: KeyboardEvent) => {
      const act = acts[event.key];
      if (!act || event.ctrlKey || event.metaKey || event.altKey || typing(event)) return;
      if (document.querySelector("[role=dialog], [role=menu]")) return;
      if (event.defaultPrevented) return; // it is a key of the screen itself
      event.preventDefault();
      act();
    };
    window.addEventListener("keydown", down);
    return () => window.removeEventListener("keydown", down);
  }, []);
  const back = useEffectEvent((event: KeyboardEvent) => {
    if (event.key !== "Escape") return;
    // The editor of letters takes every Esc for itself and does nothing with it.
    const inLetter = event.target instanceof HTMLElement && event.target.classList.contains("ProseMirror");
    if (event.defaultPrevented && !inLetter) return;
    if (document.querySelector("[role=dialog], [role=menu], [role=listbox]")) return;
    if (typing(event)) {
      // First out of what is being written, where keys are letters; a second Esc goes back.
      document.getElementById("sheet")?.focus({ preventScroll: true });
      return;
    }
    // The address is ahead of a screen that is still on its way.
    const to = lists.find(([path]) => path.test(window.location.pathname))?.[1];
    if (!to) return;
    if ((window.history.state?.idx ?? 0) > 0) go(-1);
    else go(to);
  });
  useEffect(() => {
    // Dialogs close themselves by the same key first.
    const down = (event: KeyboardEvent) => back(event);
    window.addEventListener("keydown", down);
    return () => window.removeEventListener("keydown", down);
  }, []);
}
