import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { toast } from "sonner";
import { api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { focusAt } from "../../editor/caret";
import type { useDraft } from "./useDraft";
import { type Editors, toNote } from "./useEditors";

/** What is done to the values in a letter: filled, answered, saved back, taken over from a record that changed. */
export function useFilling(id: number, { byServer }: ReturnType<typeof useDraft>, editors: Editors) {
  const queries = useQueryClient();
  const { subject, body, showLetter } = editors;
  // Words of the writer's that stayed though the record or the addressee changed.
  const [filling, setFilling] = useState<{ path: string; problem: string } | null>(null);

  const fill = useCallback(
    async (path: string, value: string, alsoRecord: boolean) => {
      setFilling({ path, problem: "" });
      let problem = "";
      const l = await byServer(async (wording, again) => {
        const { data, error } = await api
          .POST("/api/letters/{id}/fill", {
            params: { path: { id } },
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
    [id, byServer, showLetter, subject, body],
  );

  /** Answers a doubt about a value: it is right as it stands, or the better name goes in. */
  const answer = useCallback(
    async ({ path, label, value, better }: Schemas["Suggestion"], alsoRecord: boolean) => {
      const params = { path: { id } };
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
    [id, byServer, showLetter],
  );

  /** Saves on the record what the letter says in place of a value, as it stands when this is pressed. */
  const writeBack = useCallback(
    async (path: string) => {
      const l = await byServer(async (wording, again) => {
        if (again) return (await api.GET("/api/letters/{id}", { params: { path: { id } } })).data;
        const { data, error } = await api
          .POST("/api/letters/{id}/write-back", { params: { path: { id } }, body: { ...wording, path } })
          .catch(noAnswer);
        if (error) toast.error(wordsOf(error));
        return data;
      });
      if (!l) return;
      showLetter(l);
      await queries.invalidateQueries({ queryKey: ["get", "/api/people"] });
    },
    [id, byServer, showLetter, queries],
  );

  /** Writes what changed on the record into the letter, or leaves the letter as it is. */
  const settleNews = useCallback(
    async (take: boolean) => {
      const l = await byServer(async (wording) => {
        const { data, error } = await api
          .POST("/api/letters/{id}/record-news", { params: { path: { id } }, body: { ...wording, take } })
          .catch(noAnswer);
        if (error) toast.error(wordsOf(error));
        return data;
      });
      if (l) showLetter(l);
    },
    [id, byServer, showLetter],
  );

  /** What may have spoken of the records before fits. */
  const settleKept = useCallback(async () => {
    const l = await byServer(async (body) => {
      const { data, error } = await api
        .POST("/api/letters/{id}/kept", { params: { path: { id } }, body })
        .catch(noAnswer);
      if (error) toast.error(wordsOf(error));
      return data;
    });
    if (l) showLetter(l);
  }, [id, byServer, showLetter]);
  return { settleKept, filling, fill, answer, writeBack, settleNews };
}
