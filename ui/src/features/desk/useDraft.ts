import { useCallback, useEffect, useRef, useState } from "react";
import { api, noAnswer, type Schemas, statusOf } from "../../api/client";
import { dropUnsaved, keepUnsaved, noteTyped, onItsOwn, type Unsaved, wordsIn } from "./unsaved";

export type Letter = Schemas["LetterOut"];
export type Doc = Schemas["Document"];

/** How the draft stands with the server. */
export type Saving =
  | { status: "saved" }
  | { status: "changed" }
  | { status: "saving" }
  | { status: "stale" }
  | { status: "failed"; error: unknown };

/** The words of a letter, whom they speak to and the version they are based on. */
export type Wording = { personId: number; subject: Doc; body: Doc; version: number };

const pause = 500;
/** How long words wait before this browser keeps them. */
const soon = 150;

/**
 * Keeps a draft saved: half a second after the last key, one request at a time, each on the version before. A change
 * made elsewhere stops the saving until the writer chose which text to keep. Until the server has them, words are kept
 * in this browser; `unsaved` are those of an earlier visit, which `first` shows. Words that could only be saved as
 * another letter are handed to `onInstead`.
 */
export function useDraft(first: Letter, unsaved: Unsaved | null, onInstead: (l: Letter) => void) {
  const [letter, setLetter] = useState(first);
  const [saving, setSaving] = useState<Saving>({
    status: !unsaved ? "saved" : unsaved.version === first.version ? "changed" : "stale",
  });
  const now = useRef({
    personId: first.personId,
    subject: first.subjectDoc,
    body: first.body,
    version: first.version,
    dirty: unsaved !== null,
  });
  /** What is on its way to the server, in words. */
  const sent = useRef("");
  const keeping = useRef<ReturnType<typeof setTimeout>>(undefined);
  const running = useRef<Promise<boolean>>(Promise.resolve(true));
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);

  const keepNow = useCallback(() => {
    clearTimeout(keeping.current);
    const { dirty, ...words } = now.current;
    if (dirty) keepUnsaved(first.id, { ...words, ...(sent.current && { sent: sent.current }) });
    else dropUnsaved(first.id);
  }, [first.id]);

  const take = useCallback(
    (l: Letter) => {
      now.current.version = l.version;
      now.current.personId = l.personId;
      setLetter(l);
      keepNow();
    },
    [keepNow],
  );

  const put = useCallback(async (): Promise<boolean> => {
    if (!now.current.dirty) return true;
    const { personId, subject, body, version } = now.current;
    now.current.dirty = false;
    // What was sent by this window before it was loaded anew may arrive only now.
    const before = unsaved?.sent && unsaved.version === version ? unsaved.sent : "";
    sent.current = before || wordsIn(subject, body);
    setSaving({ status: "saving" });
    const answer = await api
      .PUT("/api/letters/{id}", { params: { path: { id: first.id } }, body: { personId, version, subject, body } })
      .catch(noAnswer);
    if (answer.data && answer.data.id !== first.id) {
      dropUnsaved(first.id);
      onInstead(answer.data);
      return false;
    }
    if (answer.data) {
      sent.current = "";
      take(answer.data);
      setSaving({ status: now.current.dirty ? "changed" : "saved" });
      return true;
    }
    now.current.dirty = true;
    if (statusOf(answer.error) === 409 && sent.current) {
      const { data } = await api.GET("/api/letters/{id}", { params: { path: { id: first.id } } }).catch(noAnswer);
      const mine = onItsOwn(
        { personId, subject, body, version, sent: sent.current },
        data ?? { version, subjectDoc: subject, body },
      );
      sent.current = "";
      if (data && mine && mine.version !== version) {
        now.current.version = mine.version;
        setSaving({ status: "changed" });
        return true;
      }
    }
    setSaving(statusOf(answer.error) === 409 ? { status: "stale" } : { status: "failed", error: answer.error });
    return false;
  }, [first.id, take, onInstead, unsaved]);

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
      noteTyped(first.id);
      setSaving({ status: "changed" });
      clearTimeout(timer.current);
      timer.current = setTimeout(flush, pause);
      clearTimeout(keeping.current);
      keeping.current = setTimeout(keepNow, soon);
    },
    [first.id, flush, keepNow],
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
      keepNow();
      if (now.current.dirty) event.preventDefault();
    };
    window.addEventListener("beforeunload", leave);
    window.addEventListener("pagehide", keepNow);
    return () => {
      window.removeEventListener("beforeunload", leave);
      window.removeEventListener("pagehide", keepNow);
      keepNow();
      if (now.current.dirty) void flush();
    };
  }, [flush, keepNow]);

  // The words of an earlier visit go to the server, unless the letter was changed since.
  const early = useRef(unsaved && unsaved.version === first.version);
  useEffect(() => {
    if (early.current) void flush();
    early.current = false;
  }, [flush]);

  /** After a conflict: go on from the stored version, with the words on the screen. */
  const keepMine = useCallback(async () => {
    const { data } = await api.GET("/api/letters/{id}", { params: { path: { id: first.id } } });
    if (!data) return;
    now.current.version = data.version;
    now.current.dirty = true;
    await flush();
  }, [first.id, flush]);

  /** Asks how the letter stands by now: what the records say may have changed. Its words stay as they are. */
  const lookAgain = useCallback(async () => {
    const { data } = await api.GET("/api/letters/{id}", { params: { path: { id: first.id } } }).catch(noAnswer);
    if (data && data.version === now.current.version && data.state === "draft") setLetter(data);
  }, [first.id]);

  useEffect(() => {
    const look = () => void lookAgain();
    window.addEventListener("focus", look);
    return () => window.removeEventListener("focus", look);
  }, [lookAgain]);

  /** The version that the words on the screen are based on. */
  const version = useCallback(() => now.current.version, []);

  /** Takes over a letter that the server changed, its documents included. */
  const replace = useCallback((l: Letter) => {
    const { personId, subjectDoc: subject, body, version } = l;
    now.current = { personId, subject, body, version, dirty: false };
    setLetter(l);
    setSaving({ status: "saved" });
    dropUnsaved(l.id);
  }, []);

  /**
   * Has the server change the wording, after all that is under way. What was typed meanwhile is not lost: the change is
   * asked for again on the words as they stand then. The letter is given back when it is changed; undefined when
   * something could not be saved or `act` gave nothing.
   */
  const byServer = useCallback(
    (act: (wording: Wording, again: boolean) => Promise<Letter | undefined>): Promise<Letter | undefined> => {
      const done = flush().then(async (ok) => {
        for (let again = false; ok; again = true) {
          const { personId, subject, body, version } = now.current;
          const l = await act({ personId, subject, body, version }, again);
          if (!l) return undefined;
          if (now.current.subject === subject && now.current.body === body) {
            clearTimeout(timer.current);
            replace(l);
            return l;
          }
          now.current.version = l.version;
          now.current.personId = l.personId;
        }
        return undefined;
      });
      running.current = done.then(
        () => true,
        () => false,
      );
      return done;
    },
    [flush, replace],
  );

  return { letter, saving, change, flush, keepMine, lookAgain, version, replace, byServer };
}
