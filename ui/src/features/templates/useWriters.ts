import type { EditorView } from "@codemirror/view";
import type { Editor } from "@tiptap/react";
import { useCallback, useRef, useState } from "react";
import { flushSync } from "react-dom";
import type { Schemas } from "../../api/client";
import { useSelected } from "../../editor/selected";
import { fixChip } from "./templateMargin";

export type Writers = ReturnType<typeof useWriters>;

/** What a template is written with: editors with chips, or views of the text form; and the fields picked into them. */
export function useWriters(hasChips: boolean) {
  const [editor, setEditor] = useState<Editor | null>(null);
  const [subject, setSubject] = useState<Editor | null>(null);
  const inBody = useSelected(editor);
  const inSubject = useSelected(subject);
  const [inLast, setInLast] = useState<"subject" | "body">("body");
  const views = useRef<{ subject?: EditorView; body?: EditorView; last?: EditorView }>({});
  const place = useRef({ from: 0, to: 0, typed: false }); // of the cursor when the fields were asked for
  const [picking, setPicking] = useState(false);
  const chips = hasChips ? (inLast === "subject" ? subject : editor) : null;
  const selected = inLast === "subject" ? inSubject : inBody;

  const fix = useCallback(
    (n: Schemas["Note"], words: string) => {
      const over = n.part === "subject" ? subject : editor;
      if (over && (n.where || n.part === "subject")) return fixChip(over, n, words);
      const in_ = n.part === "subject" ? views.current.subject : views.current.body;
      in_?.dispatch({ changes: { from: n.from, to: n.to, insert: words } });
      in_?.focus();
    },
    [editor, subject],
  );
  const askField = (typed: boolean, at = chips) => {
    const s = at?.state.selection;
    place.current = { from: s?.from ?? 0, to: s?.to ?? 0, typed };
    setPicking(true);
  };
  /** Back to the chips, where the cursor was: at once, so that the next key goes there. */
  const resume = (content: object | null) => {
    flushSync(() => setPicking(false));
    if (!chips) return;
    const { from, to } = place.current;
    const chain = chips.chain().setTextSelection({ from, to });
    (content ? chain.insertContent(content) : chain).run();
    chips.view.focus();
  };
  const pick = (path: string) => {
    if (chips) return resume({ type: "field", attrs: { path } });
    const over = views.current.last ?? views.current.body;
    setPicking(false);
    if (!over) return;
    over.dispatch(over.state.replaceSelection(`{{${path}}}`));
    requestAnimationFrame(() => over.focus());
  };
  /** No field was picked: the brace that was typed stays. */
  const leaveFields = () => {
    if (!chips) return setPicking(false);
    resume(place.current.typed ? { type: "text", text: "{" } : null);
  };
  return {
    editor,
    setEditor,
    subject,
    setSubject,
    setInLast,
    views,
    chips,
    selected,
    fix,
    picking,
    askField,
    pick,
    leaveFields,
  };
}
