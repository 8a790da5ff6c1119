import type { Editor } from "@tiptap/react";
import type { RefObject } from "react";
import { toast } from "sonner";
import { $api, api, noAnswer, wordsOf } from "../../api/client";
import { show } from "../../editor/show";
import type { Source } from "./PickPiece";
import type { Doc, Letter, Wording } from "./useDraft";

type Desk = {
  letter: Letter;
  subject: RefObject<Editor | null>;
  body: RefObject<Editor | null>;
  change: (part: "subject" | "body", doc: Doc) => void;
  around: (save: (w: Wording) => Promise<{ data?: Letter; error?: unknown }>) => Promise<string>;
};

const shortcut = /(?:^|[^a-z0-9_])([a-z][a-z0-9_]{0,29})$/;

/** Puts templates and passages into the letter at the cursor. */
export function usePieces({ letter, subject, body, change, around }: Desk) {
  const passages = $api.useQuery("get", "/api/passages").data ?? [];
  const path = { id: letter.id };

  const insert = async (from: Source): Promise<void> => {
    const query = "templateId" in from ? { template: from.templateId } : { passage: from.passage };
    const { data, error } = await api.GET("/api/letters/{id}/piece", { params: { path, query } }).catch(noAnswer);
    if (!data) return void toast.error(wordsOf(error));
    const blocks = data.body.content ?? [];
    const line = blocks.length === 1 && blocks[0]?.type === "paragraph" ? (blocks[0].content ?? []) : blocks;
    const editor = body.current;
    const before = editor?.state.doc;
    editor?.chain().focus().insertContent(line).run();
    // Within fixed wording nothing goes in; why was said.
    if (!editor || (before && editor.state.doc.eq(before))) return;
    if (subject.current?.isEmpty && data.subject.content?.[0]?.content?.length) {
      show(subject.current, data.subject);
      change("subject", data.subject);
    }
    const problem = await around((w) =>
      api.POST("/api/letters/{id}/pieces", { params: { path }, body: { ...w, ...from } }),
    );
    if (problem) toast.error(problem);
  };

  /** Tab behind a passage's shortcut puts the passage in. */
  const byShortcut = (editor: Editor): boolean => {
    const { $from, empty } = editor.state.selection;
    if (!empty) return false;
    const typed = shortcut.exec($from.parent.textBetween(0, $from.parentOffset, undefined, "\uFFFC"))?.[1];
    if (!typed || !passages.some((p) => p.shortcut === typed)) return false;
    editor
      .chain()
      .deleteRange({ from: $from.pos - typed.length, to: $from.pos })
      .run();
    void insert({ passage: typed });
    return true;
  };

  return { insert, byShortcut };
}
