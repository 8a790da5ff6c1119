/** Whether a key press is Tab and nothing besides. */
export function isTab(event: KeyboardEvent): boolean {
  return event.key === "Tab" && !event.shiftKey && !event.ctrlKey && !event.altKey && !event.metaKey;
}
