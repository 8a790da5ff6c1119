import { useCallback, useEffect, useRef, useState } from "react";
import { api, type Schemas, statusOf } from "../../api/client";

export type Letter = Schemas["LetterOut"];
export type Doc = Schemas["Document"];

/** How the draft stands with the server. */
export type Saving =
  | { status: "saved" }
  | { status: "changed" }
  | { status: "saving" }
  | { status: "stale" }
  | { status: "failed"; error: unknown };

const pause = 500;

/**
 * Keeps a draft saved: half a second after the last key, one request at a time, each on the version before. A change
 * made elsewhere stops the saving until the writer chose which text to keep.
 */
export function useDraft(first: Letter) {
  const [letter, setLetter] = useState(first);
  const [saving, setSaving] = useState<Saving>({ status: "saved" });
  const now = useRef({ subject: first.subjectDoc, body: first.body, version: first.version, dirty: false });
  const running = useRef<Promise<boolean>>(Promise.resolve(true));
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);

  const take = useCallback((l: Letter) => {
    now.current.version = l.version;
    setLetter(l);
  }, []);

  const put = useCallback(async (): Promise<boolean> => {
    if (!now.current.dirty) return true;
    const { subject, body, version } = now.current;
    now.current.dirty = false;
    setSaving({ status: "saving" });
    const answer = await api
      .PUT("/api/letters/{id}", { params: { path: { id: first.id } }, body: { version, subject, body } })
      .catch(() => ({ data: undefined, error: {} }));
    if (answer.data) {
      take(answer.data);
      setSaving({ status: now.current.dirty ? "changed" : "saved" });
      return true;
    }
    now.current.dirty = true;
    setSaving(statusOf(answer.error) === 409 ? { status: "stale" } : { status: "failed", error: answer.error });
    return false;
  }, [first.id, take]);

  /** Saves what is not saved yet and tells whether everything is. */
  const flush = useCallback((): Promise<boolean> => {
    clearTimeout(timer.current);
    running.current = running.current.then(async () => {
      let ok = await put();
      while (ok && now.current.dirty) ok = await put();
      return ok;
    });
    return running.current;
  }, [put]);

  const change = useCallback(
    (part: "subject" | "body", doc: Doc) => {
      now.current[part] = doc;
      now.current.dirty = true;
      setSaving({ status: "changed" });
      clearTimeout(timer.current);
      timer.current = setTimeout(flush, pause);
    },
    [flush],
  );

  // What failed is tried again by itself: the writer goes on writing.
  useEffect(() => {
    if (saving.status !== "failed") return;
    const again = setTimeout(flush, 4000);
    return () => clearTimeout(again);
  }, [saving, flush]);

  // Leaving the screen saves; closing the window with unsaved words asks.
  useEffect(() => {
    const leave = (event: BeforeUnloadEvent) => {
      if (now.current.dirty) event.preventDefault();
    };
    window.addEventListener("beforeunload", leave);
    return () => {
      window.removeEventListener("beforeunload", leave);
      if (now.current.dirty) void flush();
    };
  }, [flush]);

  /** After a conflict: go on from the stored version, with the words on the screen. */
  const keepMine = useCallback(async () => {
    const { data } = await api.GET("/api/letters/{id}", { params: { path: { id: first.id } } });
    if (!data) return;
    now.current.version = data.version;
    now.current.dirty = true;
    await flush();
  }, [first.id, flush]);

  /** The wording as it stands on the screen, on the version it is based on. */
  const wording = useCallback(() => {
    const { subject, body, version } = now.current;
    return { subject, body, version };
  }, []);

  /** Takes over a letter that the server changed, its documents included. */
  const replace = useCallback((l: Letter) => {
    now.current = { subject: l.subjectDoc, body: l.body, version: l.version, dirty: false };
    setLetter(l);
    setSaving({ status: "saved" });
  }, []);

  return { letter, saving, change, flush, keepMine, wording, replace };
}
