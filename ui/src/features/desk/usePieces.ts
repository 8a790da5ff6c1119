import type { Node } from "@tiptap/pm/model";
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
  around: (save: (w: Wording) => Promise<{ data?: Letter; error?: unknown }>, shown?: boolean) => Promise<string>;
};

const shortcut = /(?:^|[^a-z0-9_])([a-z][a-z0-9_]{0,29})$/;

/** Puts templates and passages into the letter at the cursor. */
export function usePieces({ letter, subject, body, change, around }: Desk) {
  const passages = $api.useQuery("get", "/api/passages").data ?? [];
  const path = { id: letter.id };

  /** Puts words in at the cursor; tells whether they went in: within fixed wording nothing does, and why is said. */
  const put = (content: Doc["content"], at?: number): boolean => {
    const editor = body.current;
    const before = editor?.state.doc;
    if (at === undefined) editor?.chain().focus().insertContent(content).run();
    else editor?.chain().insertContentAt(at, content).focus().run();
    return !!editor && !(before && editor.state.doc.eq(before));
  };

  const insert = async (from: Source): Promise<void> => {
    const query = "templateId" in from ? { template: from.templateId } : { passage: from.passage };
    const { data, error } = await api.GET("/api/letters/{id}/piece", { params: { path, query } }).catch(noAnswer);
    if (!data) return void toast.error(wordsOf(error));
    const blocks = data.body.content ?? [];
    const line = blocks.length === 1 && blocks[0]?.type === "paragraph" ? (blocks[0].content ?? []) : blocks;
    if (!put(line)) return;
    const without = data.without;
    if (subject.current?.isEmpty && data.subject.content?.[0]?.content?.length) {
      show(subject.current, data.subject);
      change("subject", data.subject);
    }
    let piece = -1;
    const problem = await around(async (w) => {
      const answer = await api.POST("/api/letters/{id}/pieces", { params: { path }, body: { ...w, ...from, without } });
      piece = (answer.data?.pieces.length ?? 0) - 1;
      return answer;
    });
    if (problem) return void toast.error(problem);
    if (without.length === 0) return;
    const left = without.map((f) => (f === "closing" ? "sign-off" : f)).join(" and ");
    toast.info(`Its ${left} stayed behind, as your letter has ${without.length > 1 ? "them" : "one"} already.`, {
      action: { label: `Add the ${left}`, onClick: () => void whole(piece, from) },
    });
  };

  /** Puts a piece in once more, with its greeting and sign-off. */
  const whole = async (piece: number, from: Source): Promise<void> => {
    const problem = await around(
      (w) =>
        api.POST("/api/letters/{id}/pieces/{piece}/out", {
          params: { path: { ...path, piece } },
          body: { ...w, instead: from },
        }),
      true,
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

  /** Puts blocks in at the cursor, or at the end of what was written when nobody was writing yet. */
  const putBlocks = (content: Doc["content"]): boolean => {
    const editor = body.current;
    if (!editor) return false;
    const { selection, doc } = editor.state;
    if (selection.from > 1 || doc.textContent === "") return put(content);
    const space = { type: "paragraph" } as const;
    const at = beforeSignature(doc, letter.signature);
    const plain = letter.body.attrs.body !== "formatted";
    return put(plain ? [...content, space] : content, at);
  };

  return { insert, putBlocks, byShortcut };
}

/** Where the signature begins that stands at the end of a letter, or the end. */
function beforeSignature(doc: Node, signature: string): number {
  const words = (text: string) => text.replace(/\s+/g, "");
  let at = doc.content.size;
  for (let i = doc.childCount - 1, text = ""; i >= 0 && signature; i--) {
    const block = doc.child(i);
    text = block.textBetween(0, block.content.size, " ", " ") + text;
    at -= block.nodeSize;
    if (words(text) === words(signature)) return at;
  }
  return doc.content.size;
}
