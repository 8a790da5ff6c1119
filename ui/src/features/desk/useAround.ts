import { useCallback } from "react";
import { toast } from "sonner";
import { api, noAnswer, wordsOf } from "../../api/client";
import { readsRight } from "../../editor/schema";
import { show } from "../../editor/show";
import type { Source } from "./PickPiece";
import { timesTyped } from "./unsaved";
import type { Doc, Letter, useDraft, Wording } from "./useDraft";
import type { Editors } from "./useEditors";

/** What is done around the words of a letter: its pieces, parts of a page, quote, questions, links. */
export function useAround(id: number, { change, byServer }: ReturnType<typeof useDraft>, editors: Editors) {
  const { subject, body, showLetter } = editors;
  /** Saves the wording with something around it; gives what is wrong, or "". */
  const around = useCallback(
    async (save: (wording: Wording) => Promise<{ data?: Letter; error?: unknown }>, shown = false): Promise<string> => {
      let problem = "";
      const l = await byServer(async (wording) => {
        const { data, error } = await save(wording).catch(noAnswer);
        if (!data) problem = wordsOf(error);
        return data;
      });
      if (l && shown) showLetter(l);
      return problem;
    },
    [byServer, showLetter],
  );
  /** The same, saying in passing what is wrong. */
  const orTold = useCallback(
    async (save: Parameters<typeof around>[0], shown = false) => {
      const problem = await around(save, shown);
      if (problem) toast.error(problem);
      return problem === "";
    },
    [around],
  );

  const takeOut = useCallback(
    (piece: number, instead?: Source) => {
      const params = { path: { id, piece } };
      const body = (w: Wording) => ({ ...w, ...(instead && { instead }) });
      return orTold((w) => api.POST("/api/letters/{id}/pieces/{piece}/out", { params, body: body(w) }), true);
    },
    [orTold, id],
  );
  const setPartWords = useCallback(
    async (part: number, text: string) => {
      const params = { path: { id } };
      await orTold((w) => api.POST("/api/letters/{id}/part", { params, body: { ...w, part, text } }));
    },
    [orTold, id],
  );
  const setQuote = useCallback(
    async (words: string) => {
      const params = { path: { id } };
      await orTold((w) => api.PUT("/api/letters/{id}/quote", { params, body: { ...w, words } }));
    },
    [orTold, id],
  );
  const setFrom = useCallback(
    async (from: string) => {
      const params = { path: { id } };
      await orTold((w) => api.POST("/api/letters/{id}/from", { params, body: { ...w, from } }), true);
    },
    [orTold, id],
  );
  const askNoMore = useCallback(
    async (question: number) => {
      const params = { path: { id, question } };
      const before = body.current?.getJSON() as Doc | undefined;
      if (!(await orTold((w) => api.POST("/api/letters/{id}/questions/{question}/out", { params, body: w }), true)))
        return;
      const typed = timesTyped(id);
      const back = () => {
        if (!before || !body.current) return;
        if (timesTyped(id) !== typed)
          return void toast.error("You have gone on writing. Ask the question again instead.");
        show(body.current, before);
        change("body", before);
      };
      toast.success("The question was taken out.", { action: { label: "Undo", onClick: back } });
    },
    [orTold, change, id, body],
  );

  /** Takes the link from words that lead where no reader can follow. */
  const unlink = useCallback(
    (href: string) => {
      const editor = body.current;
      if (!editor) return;
      const tr = editor.state.tr;
      editor.state.doc.descendants((node, pos) => {
        for (const m of node.marks)
          if (m.type.name === "link" && m.attrs.href === href) tr.removeMark(pos, pos + node.nodeSize, m);
      });
      if (tr.docChanged) editor.view.dispatch(tr);
    },
    [body],
  );
  /** The sentence reads although a value was left out of it. */
  const leaveSo = useCallback(
    (part: string, line: number) => readsRight(part === "subject" ? subject.current : body.current, line - 1),
    [subject, body],
  );
  return { around, takeOut, setPartWords, setQuote, setFrom, askNoMore, unlink, leaveSo };
}
