import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { api, noAnswer, statusOf, wordsOf } from "../../api/client";
import { dropUnsaved, timesTyped, unsavedOf } from "./unsaved";
import type { Letter, useDraft, Wording } from "./useDraft";
import type { Carets, Editors } from "./useEditors";
import { homeOf, morningHere, sendTime, type When } from "./words";

type Draft = ReturnType<typeof useDraft>;

/** Sends the letter as it stands, with a sum only as the proof of it showed it; nothing can be typed meanwhile, since it would not be in the letter that goes. */
export function useSending(draft: Draft, editors: Editors, when: When) {
  const go = useNavigate();
  const queries = useQueryClient();
  const [sending, setSending] = useState(false);
  const [problem, setProblem] = useState(""); // why it did not go, for who looks at its proof
  const { letter, flush, version, lookAgain } = draft;
  const { setEditable } = editors;
  const send = useCallback(
    async (proof?: string) => {
      setSending(true);
      setProblem("");
      setEditable(false);
      const saved = await flush();
      const answer = saved
        ? await api.POST("/api/letters/{id}/send", {
            params: { path: { id: letter.id } },
            body: {
              version: version(),
              to: letter.toEmail,
              ...sendTime(when),
              ...(proof && { proof }),
              ...(when.remind && { remind: morningHere(when.remind), remindAny: when.remindAny ?? false }),
            },
          })
        : null;
      setSending(false);
      if (!answer || answer.error) setEditable(true);
      if (!answer) return;
      if (answer.error) {
        if (proof) setProblem(wordsOf(answer.error));
        else toast.error(wordsOf(answer.error));
        await Promise.all([lookAgain(), queries.invalidateQueries({ queryKey: ["get", "/api/letters/{id}/proof"] })]);
        return;
      }
      await queries.invalidateQueries();
      go(`${homeOf(letter)}?letter=${letter.id}`);
    },
    [flush, go, letter, queries, version, when, setEditable, lookAgain],
  );
  const forget = useCallback(() => setProblem(""), []);
  return { send, sending, problem, forget };
}

/** What is done with a letter as a whole: begun anew, formatted, taken to a window of its own, discarded. */
export function useLetterActs(draft: Draft, editors: Editors, onStartOver: (l: Letter, carets: Carets) => void) {
  const go = useNavigate();
  const queries = useQueryClient();
  const { letter, flush, version, replace, byServer } = draft;
  const path = { params: { path: { id: letter.id } } };

  const startOver = async (templateId: number) => {
    if (!(await flush())) return;
    const { data, error } = await api
      .POST("/api/letters/{id}/start-over", { ...path, body: { version: version(), templateId } })
      .catch(noAnswer);
    if (!data) return void toast.error(wordsOf(error));
    onStartOver(data, {});
    const back = async () => {
      const before = await api
        .POST("/api/letters/{id}/restore", { params: { path: { id: data.before ?? 0 } } })
        .catch(noAnswer);
      if (before.data) go(`/letters/${before.data.id}`);
      else toast.error(wordsOf(before.error));
    };
    toast("Started again with this template.", {
      action: { label: "Undo", onClick: () => void back() },
      duration: 15_000,
    });
  };

  const formatIt = async () => {
    let before: Wording | undefined;
    const l = await byServer(async (body) => {
      const { data, error } = await api.POST("/api/letters/{id}/format", { ...path, body }).catch(noAnswer);
      if (!data) toast.error(wordsOf(error));
      before = body;
      return data;
    });
    if (!l) return;
    onStartOver(l, editors.placesNow());
    const typed = timesTyped(l.id);
    const goneOn = () => void toast.error("You have gone on writing, so the letter stays formatted.");
    const back = async () => {
      if (!before || timesTyped(l.id) !== typed || unsavedOf(l.id, l.personId)) return goneOn();
      const body = { ...before, version: l.version };
      const { data, error } = await api.POST("/api/letters/{id}/unformat", { ...path, body }).catch(noAnswer);
      if (data) onStartOver(data, editors.placesNow());
      else if (statusOf(error) === 409) goneOn();
      else toast.error(wordsOf(error));
    };
    toast.success("The letter is formatted.", { action: { label: "Undo", onClick: () => void back() } });
  };

  /** The letter is written on in a window of its own; this one goes back to where the letter is filed. */
  const toOwnWindow = async () => {
    if (!(await flush())) return;
    if (window.open(`/letters/${letter.id}`, `letter${letter.id}`, "popup,width=1180,height=820")) go(homeOf(letter));
    else toast.error("Your browser blocked the new window; allow pop-ups for this site.");
  };

  const discard = async () => {
    await flush(); // so that Undo brings back the last words
    const { error } = await api.DELETE("/api/letters/{id}", path).catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    dropUnsaved(letter.id);
    const restore = async () => {
      const back = await api.POST("/api/letters/{id}/restore", path).catch(noAnswer);
      if (!back.data) return void toast.error(wordsOf(back.error));
      go(`/letters/${letter.id}`);
    };
    toast("Draft discarded.", { action: { label: "Undo", onClick: () => void restore() }, duration: 10_000 });
    void queries.invalidateQueries({ queryKey: ["get", "/api/letters"] });
    go(homeOf(letter));
  };

  const loadTheirs = async () => {
    const { data } = await api.GET("/api/letters/{id}", path);
    if (!data) return;
    replace(data);
    editors.showLetter(data);
  };
  return { startOver, formatIt, toOwnWindow, discard, loadTheirs };
}
