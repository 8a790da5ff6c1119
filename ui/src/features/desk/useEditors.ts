import type { Editor } from "@tiptap/react";
import { useCallback, useEffect, useRef, useState } from "react";
import { type Caret, caretOf, focusAt, placeOf, putCaret } from "../../editor/caret";
import { show } from "../../editor/show";
import type { Letter } from "./useDraft";

/** Where the writer was before the editors were made anew. */
export type Carets = { subject?: Caret | null; body?: Caret | null };

export type Editors = ReturnType<typeof useEditors>;

/** The editors of a letter's subject and body, once they are made; `formatted` is the body's when it is formatted. */
export function useEditors(first: Letter, carets: Carets) {
  const subject = useRef<Editor>(null);
  const body = useRef<Editor>(null);
  const [formatted, setFormatted] = useState<Editor | null>(null);
  const onSubject = useCallback(
    (e: Editor) => {
      subject.current = e;
      if (carets.subject) putCaret(e, carets.subject);
    },
    [carets.subject],
  );
  const onBody = useCallback(
    (e: Editor) => {
      body.current = e;
      if (first.body.attrs.body === "formatted") setFormatted(e);
      if (carets.body) putCaret(e, carets.body);
    },
    [first.body.attrs.body, carets.body],
  );
  const begun = useRef(Boolean(carets.subject || carets.body));
  useEffect(() => {
    // Whoever picked a template or pressed Reply goes on writing; whoever is typing elsewhere is left alone.
    if (begun.current || document.querySelector("[role=dialog]")) return;
    begun.current = true;
    focusAt(subject.current?.isEmpty ? subject.current : body.current, "start");
  }, []);

  const showLetter = useCallback((l: Letter) => {
    show(subject.current, l.subjectDoc);
    show(body.current, l.body);
  }, []);
  const caretsNow = useCallback((): Carets => ({ subject: caretOf(subject.current), body: caretOf(body.current) }), []);
  /** The same when a button has the keyboard now: the writer goes on in the body. */
  const placesNow = useCallback((): Carets => {
    const now = caretsNow();
    return now.subject || now.body || !body.current ? now : { body: placeOf(body.current) };
  }, [caretsNow]);
  const setEditable = useCallback((on: boolean) => {
    for (const editor of [subject.current, body.current]) editor?.setEditable(on);
  }, []);
  return { subject, body, formatted, onSubject, onBody, showLetter, caretsNow, placesNow, setEditable };
}

/** Puts the cursor into the note of a gap. */
export function toNote(path: string) {
  document.querySelector<HTMLElement>(`[data-gap-note="${CSS.escape(path)}"] :is(input, select)`)?.focus();
}
