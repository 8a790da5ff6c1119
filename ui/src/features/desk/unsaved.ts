import type { Doc } from "./useDraft";

/** Words that the server does not have yet, kept in this browser. */
export type Unsaved = { personId: number; version: number; subject: Doc; body: Doc };

const key = (letter: number) => `letter ${letter}`;

/** How often something was typed in a letter in this window, saved or not. */
const typed = new Map<number, number>();
export const timesTyped = (letter: number): number => typed.get(letter) ?? 0;
export const noteTyped = (letter: number) => void typed.set(letter, timesTyped(letter) + 1);

/** What this window kept or read, so that it does not drop another window's words. */
const mine = new Map<number, string>();

/** Keeps words until they are saved. A browser that keeps nothing does no harm: the server is asked all the time. */
export function keepUnsaved(letter: number, words: Unsaved) {
  try {
    const text = JSON.stringify(words);
    mine.set(letter, text);
    localStorage.setItem(key(letter), text);
  } catch {
    // The browser has no room or may not keep anything.
  }
}

export function dropUnsaved(letter: number) {
  try {
    if (localStorage.getItem(key(letter)) === mine.get(letter)) localStorage.removeItem(key(letter));
    mine.delete(letter);
  } catch {
    // As above.
  }
}

/** The words that were kept of a letter to a person; null when there are none. */
export function unsavedOf(letter: number, personId: number): Unsaved | null {
  try {
    const text = localStorage.getItem(key(letter)) ?? "null";
    const words = JSON.parse(text) as Unsaved | null;
    if (words?.personId !== personId || words.subject?.type !== "doc" || words.body?.type !== "doc") return null;
    mine.set(letter, text);
    return words;
  } catch {
    // It was written by something else.
  }
  return null;
}
