import { useQueryClient } from "@tanstack/react-query";
import type { Editor } from "@tiptap/react";
import { useCallback, useRef, useState } from "react";
import { toast } from "sonner";
import { api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { focusAt } from "../../editor/caret";
import { show } from "../../editor/show";
import type { Source } from "./PickPiece";
import { timesTyped } from "./unsaved";
import type { Doc, Letter, useDraft, Wording } from "./useDraft";

type Props = {
  first: Letter;
  draft: ReturnType<typeof useDraft>;
};

/** What can be done to a letter besides typing: values filled, answered and saved back, pieces taken out, questions. */
export function useSteps({ first, draft }: Props) {
  const queries = useQueryClient();
  const { change, byServer } = draft;
  const subject = useRef<Editor>(null);
  const body = useRef<Editor>(null);
  // Words of the writer's that stayed though the record or the addressee changed.
  const [kept, setKept] = useState<Schemas["KeptWords"][]>([]);
  const [filling, setFilling] = useState<{ path: string; problem: string } | null>(null);

  const showLetter = useCallback((l: Letter) => {
    show(subject.current, l.subjectDoc);
    show(body.current, l.body);
  }, []);

  const toNote = useCallback((path: string) => {
    document.querySelector<HTMLElement>(`[data-gap-note="${CSS.escape(path)}"] :is(input, select)`)?.focus();
  }, []);

  const fill = useCallback(
    async (path: string, value: string, alsoRecord: boolean) => {
      setFilling({ path, problem: "" });
      let problem = "";
      const l = await byServer(async (wording, again) => {
        const { data, error } = await api
          .POST("/api/letters/{id}/fill", {
            params: { path: { id: first.id } },
            body: { ...wording, path, value, alsoRecord: alsoRecord && !again },
          })
          .catch(noAnswer);
        if (error) problem = wordsOf(error);
        return data;
      });
      setFilling(problem ? { path, problem } : null);
      if (!l) return;
      showLetter(l);
      if (subject.current?.isFocused || body.current?.isFocused) return; // the writer went on writing
      const next = l.gaps[0];
      if (next) toNote(next.path);
      else focusAt(body.current, "end");
    },
    [first.id, byServer, showLetter, toNote],
  );

  /** Answers a doubt about a value: it is right as it stands, or the better name goes in. */
  const answer = useCallback(
    async ({ path, label, value, better }: Schemas["Suggestion"], alsoRecord: boolean) => {
      const params = { path: { id: first.id } };
      const l = await byServer(async (wording, again) => {
        const { data, error } = await (better
          ? api.POST("/api/letters/{id}/correct", {
              params,
              body: { ...wording, path, value: better, alsoRecord: alsoRecord && !again },
            })
          : api.POST("/api/letters/{id}/right", { params, body: { ...wording, path } })
        ).catch(noAnswer);
        if (error) toast.error(wordsOf(error));
        return data;
      });
      if (!l) return;
      showLetter(l);
      if (better) return;
      const undo = async () => {
        const before = await byServer(async (wording) => {
          const { data, error } = await api
            .POST("/api/letters/{id}/doubt", { params, body: { ...wording, path } })
            .catch(noAnswer);
          if (error) toast.error(wordsOf(error));
          return data;
        });
        if (before) showLetter(before);
      };
      toast.success(`${label}: “${value}” is used as it stands, here and from now on.`, {
        action: { label: "Undo", onClick: () => void undo() },
      });
    },
    [first.id, byServer, showLetter],
  );

  /** Saves on the record what the letter says in place of a value, as it stands when this is pressed. */
  const writeBack = useCallback(
    async (path: string) => {
      const l = await byServer(async (wording, again) => {
        if (again) return (await api.GET("/api/letters/{id}", { params: { path: { id: first.id } } })).data;
        const { data, error } = await api
          .POST("/api/letters/{id}/write-back", { params: { path: { id: first.id } }, body: { ...wording, path } })
          .catch(noAnswer);
        if (error) toast.error(wordsOf(error));
        return data;
      });
      if (!l) return;
      showLetter(l);
      await queries.invalidateQueries({ queryKey: ["get", "/api/people"] });
    },
    [first.id, byServer, showLetter, queries],
  );

  /** Writes what changed on the record into the letter, or leaves the letter as it is. */
  const settleNews = useCallback(
    async (take: boolean) => {
      let stayed: Schemas["KeptWords"][] = [];
      const l = await byServer(async (wording) => {
        const { data, error } = await api
          .POST("/api/letters/{id}/record-news", { params: { path: { id: first.id } }, body: { ...wording, take } })
          .catch(noAnswer);
        if (error) toast.error(wordsOf(error));
        stayed = data?.kept ?? [];
        return data?.letter;
      });
      if (!l) return;
      showLetter(l);
      setKept(stayed);
    },
    [first.id, byServer, showLetter],
  );

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
  const takeOut = useCallback(
    async (piece: number, instead?: Source) => {
      const params = { path: { id: first.id, piece } };
      const problem = await around(
        (w) =>
          api.POST("/api/letters/{id}/pieces/{piece}/out", { params, body: { ...w, ...(instead && { instead }) } }),
        true,
      );
      if (problem) toast.error(problem);
    },
    [around, first.id],
  );

  const setPartWords = useCallback(
    async (at: number, text: string) => {
      const params = { path: { id: first.id } };
      const problem = await around((w) =>
        api.POST("/api/letters/{id}/part", { params, body: { ...w, part: at, text } }),
      );
      if (problem) toast.error(problem);
    },
    [around, first.id],
  );
  const setQuote = useCallback(
    async (words: string) => {
      const params = { path: { id: first.id } };
      const problem = await around((w) => api.PUT("/api/letters/{id}/quote", { params, body: { ...w, words } }));
      if (problem) toast.error(problem);
    },
    [around, first.id],
  );
  const askNoMore = useCallback(
    async (question: number) => {
      const params = { path: { id: first.id, question } };
      const before = body.current?.getJSON() as Doc | undefined;
      const problem = await around(
        (body) => api.POST("/api/letters/{id}/questions/{question}/out", { params, body }),
        true,
      );
      if (problem) return void toast.error(problem);
      const typed = timesTyped(first.id);
      const back = () => {
        if (!before || !body.current) return;
        if (timesTyped(first.id) !== typed)
          return void toast.error("You have gone on writing. Ask the question again instead.");
        show(body.current, before);
        change("body", before);
      };
      toast.success("The question was taken out.", { action: { label: "Undo", onClick: back } });
    },
    [around, change, first.id],
  );

  /** Takes the link from words that lead where no reader can follow. */
  const unlink = useCallback((href: string) => {
    const editor = body.current;
    if (!editor) return;
    const tr = editor.state.tr;
    editor.state.doc.descendants((node, pos) => {
      for (const m of node.marks)
        if (m.type.name === "link" && m.attrs.href === href) tr.removeMark(pos, pos + node.nodeSize, m);
    });
    if (tr.docChanged) editor.view.dispatch(tr);
  }, []);

  return {
    subject,
    body,
    kept,
    setKept,
    filling,
    fill,
    answer,
    writeBack,
    settleNews,
    around,
    takeOut,
    setPartWords,
    setQuote,
    askNoMore,
    showLetter,
    toNote,
    unlink,
  };
}
