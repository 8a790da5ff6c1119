import type { Doc } from "./useDraft";

/**
 * Words that the server does not have yet, kept in this browser. `sent` is what was on its way to the server on the same
 * version, in words: when the page was left meanwhile, the next version may be that.
 */
export type Unsaved = { personId: number; version: number; subject: Doc; body: Doc; sent?: string };

type Node = { text?: string; attrs?: unknown; content?: Node[] };
const wordsOf = (n: Node): string => (n.text ?? "") + (n.content ?? []).map(wordsOf).join("\n");
/** The words of a letter, by which two forms of it are compared. */
export const wordsIn = (subject: Doc, body: Doc) =>
  `${wordsOf(subject as Node)}\n\n${wordsOf(body as Node)}`.replace(/\s+/g, "");

/** Words that are based on what this browser sent are based on the version that came of it. */
export function onItsOwn(
  words: Unsaved | null,
  stored: { version: number; subjectDoc: Doc; body: Doc },
): Unsaved | null {
  if (!words?.sent || words.version + 1 !== stored.version || words.sent !== wordsIn(stored.subjectDoc, stored.body))
    return words;
  const { sent: _sent, ...rest } = words;
  return { ...rest, version: stored.version };
}

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
