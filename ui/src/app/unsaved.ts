import { type RefObject, useEffect, useState } from "react";

/** Something on the screen whose words are not stored yet. */
type Work = {
  what: string;
  /** Whether another path may follow: it was stored, and the screen follows. */
  past: RefObject<boolean> | undefined;
  /** A dialog lies over its screen: what is pressed in it leads on purpose, only going back is asked about. */
  dialog: boolean;
};

const works = new Set<Work>();

/** The work that leaving now would lose, if there is any. */
export function unsavedWork(by: "back" | "on"): string | undefined {
  for (const w of works) if ((by === "back" || !w.dialog) && !w.past?.current) return w.what;
  return undefined;
}

/** As long as changed holds, leaving asks first: another screen by LeaveGuard, a reload by the browser in its own words. */
export function useUnsaved(changed: boolean, what: string, past?: RefObject<boolean>, dialog = false) {
  useEffect(() => {
    if (!changed) return;
    const work = { what, past, dialog };
    works.add(work);
    const leave = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", leave);
    return () => {
      works.delete(work);
      window.removeEventListener("beforeunload", leave);
    };
  }, [changed, what, past, dialog]);
}

/** Reports whether words were typed into what onInput is set on; searching is not typing. */
export function useWords() {
  const [typed, setTyped] = useState(false);
  const onInput = (event: { target: EventTarget }) => {
    const t = event.target as HTMLElement;
    const search = t.getAttribute("role") === "combobox" || t.getAttribute("type") === "search";
    const words = t.isContentEditable || t.matches("textarea, input:not([type=checkbox], [type=radio], [type=file])");
    if (words && !search) setTyped(true);
  };
  return { typed, onInput, settled: () => setTyped(false) };
}
