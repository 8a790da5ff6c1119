import { useEffect, useRef } from "react";

/** Whether a key press belongs to something that is being typed in. */
export function typing(event: KeyboardEvent): boolean {
  const t = event.target;
  if (t instanceof HTMLInputElement && t.type === "checkbox") return false;
  return t instanceof HTMLElement && (t.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(t.tagName));
}

/** Whether a key presses what has the focus: a button or a link does then what it says, and nothing else. */
function presses(event: KeyboardEvent): boolean {
  const t = event.target;
  return (
    [" ", "Enter"].includes(event.key) && t instanceof HTMLElement && t.closest("button, a[href], summary") !== null
  );
}

/** Calls a function for single keys pressed outside of fields and dialogs. Names as in KeyboardEvent.key. */
export function useKeys(keys: Record<string, (event: KeyboardEvent) => void>) {
  const latest = useRef(keys);
  latest.current = keys;
  useEffect(() => {
    const down = (event: KeyboardEvent) => {
      if (event.defaultPrevented || event.ctrlKey || event.metaKey || event.altKey || typing(event)) return;
      if (presses(event) || document.querySelector("[role=dialog]")) return;
      const act = latest.current[event.key];
      if (!act) return;
      event.preventDefault();
      act(event);
    };
    // Below the window, where the keys of every screen are heard: those of this screen come first.
    document.addEventListener("keydown", down);
    return () => document.removeEventListener("keydown", down);
  }, []);
}

/** Calls a function for a key pressed with Ctrl (or Cmd), wherever the cursor is. */
export function useCtrlKey(key: string, act: () => void) {
  const latest = useRef(act);
  latest.current = act;
  useEffect(() => {
    const down = (event: KeyboardEvent) => {
      if (event.key !== key || !(event.ctrlKey || event.metaKey)) return;
      // A dialog that was finished with these keys has used them up.
      if (event.defaultPrevented && document.querySelector("[role=dialog]")) return;
      event.preventDefault();
      latest.current();
    };
    window.addEventListener("keydown", down);
    return () => window.removeEventListener("keydown", down);
  }, [key]);
}
