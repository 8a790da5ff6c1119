const key = "ctrl enter sends";

/** Whether Ctrl+Enter sends without showing the proof first: each writer's own choice, kept in the browser. */
export function sendsAtOnce(): boolean {
  try {
    return localStorage.getItem(key) === "yes";
  } catch {
    return false;
  }
}

export function setSendsAtOnce(on: boolean) {
  try {
    if (on) localStorage.setItem(key, "yes");
    else localStorage.removeItem(key);
  } catch {
    // A browser that keeps nothing shows the proof.
  }
}
