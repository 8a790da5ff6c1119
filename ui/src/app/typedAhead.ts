// What is typed between a key that opens a dialog and the dialog's search being there is kept for the search.

let typed = "";
let entered = false;
let stop: (() => void) | null = null;

/** Keeps what is typed from now on, until it is taken. Esc gives up what is being opened. */
export function keepTyping(onGiveUp: () => void) {
  takeTyped();
  const down = (event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key.length === 1) typed += event.key;
    else if (event.key === "Backspace") typed = typed.slice(0, -1);
    else if (event.key === "Enter") entered = true;
    else if (event.key === "Escape") {
      takeTyped();
      onGiveUp();
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
  window.addEventListener("keydown", down, true);
  // A dialog that never comes must not swallow keys.
  const late = setTimeout(() => takeTyped(), 4000);
  stop = () => {
    window.removeEventListener("keydown", down, true);
    clearTimeout(late);
  };
}

/** Gives what was typed, and whether Enter came behind it. */
export function takeTyped(): { words: string; entered: boolean } {
  stop?.();
  stop = null;
  const taken = { words: typed, entered };
  typed = "";
  entered = false;
  return taken;
}
