import { useQueryClient } from "@tanstack/react-query";
import type { Editor } from "@tiptap/react";
import { Type } from "lucide-react";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { api, noAnswer, statusOf, wordsOf } from "../../api/client";
import { useCtrlKey } from "../../app/keys";
import { Button } from "../../components/Button";
import { Margin } from "../../components/Margin";
import { PartsFrame, partOf } from "../../components/PartsFrame";
import { type Caret, caretOf, focusAt, putCaret } from "../../editor/caret";
import { Emoji } from "../../editor/Emoji";
import { selectedNote } from "../../editor/SelectedNote";
import { letterExtensions, subjectExtensions } from "../../editor/schema";
import { isFixed, useSelected } from "../../editor/selected";
import { type Around, AroundDialogs } from "./AroundDialogs";
import { sendsAtOnce } from "./atOnce";
import { Dispatch } from "./Dispatch";
import { keptNote, notesOf } from "./deskMargin";
import { FactsStrip } from "./FactsStrip";
import { FormattedWords } from "./FormattedWords";
import { inAddresses } from "./inAddresses";
import { LetterPartNote } from "./LetterPartNote";
import { PickPiece } from "./PickPiece";
import { Proof } from "./Proof";
import { QuoteNote } from "./QuoteNote";
import { SaveAsTemplate } from "./SaveAsTemplate";
import { Stale } from "./Stale";
import { dropUnsaved, timesTyped, type Unsaved, unsavedOf } from "./unsaved";
import { type Letter, useDraft, type Wording } from "./useDraft";
import { usePieces } from "./usePieces";
import { useSteps } from "./useSteps";
import { Words } from "./Words";
import { homeOf, morningHere, sendTime, type When } from "./words";

/** Where the writer was before the editors were made anew. */
export type Carets = { subject?: Caret | null; body?: Caret | null };

type Props = {
  first: Letter;
  carets: Carets;
  /** Words of an earlier visit, which `first` shows and the server does not have. */
  unsaved: Unsaved | null;
  onStartOver: (l: Letter, carets: Carets) => void;
};

/** The writing desk: the addressee's facts, the letter, the margin, and the strip that sends it. */
export function Desk({ first, carets, unsaved, onStartOver }: Props) {
  const go = useNavigate();
  const queries = useQueryClient();
  const editors = useRef<{ subject: Editor | null; body: Editor | null }>(null);
  const onInstead = useCallback(
    (l: Letter) => {
      toast.info(
        l.instead === "sent"
          ? "This letter was sent from another window. What you wrote since is in this new draft; it was not sent."
          : "This letter was discarded in another window. Your words are in this new draft.",
        { duration: Infinity, closeButton: true },
      );
      void queries.invalidateQueries({ queryKey: ["get", "/api/letters"] });
      // Whoever is typing goes on where they are.
      const at = { subject: caretOf(editors.current?.subject ?? null), body: caretOf(editors.current?.body ?? null) };
      go(`/letters/${l.id}`, { replace: true, state: { carets: at } });
    },
    [go, queries],
  );
  const draft = useDraft(first, unsaved, onInstead);
  const { letter, change, flush, replace, version, byServer } = draft;
  const sheet = useRef<HTMLDivElement>(null);
  const [formatted, setFormatted] = useState<Editor | null>(null);
  const selected = useSelected(formatted);
  const [open, setOpen] = useState<"proof" | "piece" | "template" | Around | null>(null);
  const [swapping, setSwapping] = useState<number | null>(null);
  const [when, setWhen] = useState<When>({ how: "now" });
  const [waved, setWaved] = useState<string[]>([]);
  const page = useRef<HTMLIFrameElement>(null);
  const [part, setPart] = useState<number | null>(null);
  const [sending, setSending] = useState(false);

  const steps = useSteps({ first, draft });
  const { subject, body, kept, setKept } = steps;
  const { filling, fill, answer, writeBack, settleNews, around, takeOut, showLetter, toNote, unlink } = steps;
  const { setPartWords, setQuote, askNoMore } = steps;

  const send = useCallback(async () => {
    setSending(true);
    // What is typed now would not be in the letter that goes.
    for (const editor of [subject.current, body.current]) editor?.setEditable(false);
    const saved = await flush();
    const answer = saved
      ? await api.POST("/api/letters/{id}/send", {
          params: { path: { id: first.id } },
          body: {
            version: version(),
            to: letter.toEmail,
            ...sendTime(when),
            ...(when.remind && { remind: morningHere(when.remind) }),
          },
        })
      : null;
    setSending(false);
    if (!answer || answer.error) for (const editor of [subject.current, body.current]) editor?.setEditable(true);
    if (!answer) return;
    if (answer.error) return void toast.error(wordsOf(answer.error));
    await queries.invalidateQueries();
    go(`${homeOf(letter)}?letter=${letter.id}`);
  }, [first.id, flush, go, letter, queries, version, when, subject, body]);

  const path = { params: { path: { id: first.id } } };
  const pieces = usePieces({ letter, subject, body, change, around });
  const startOver = async (templateId: number) => {
    if (!(await flush())) return;
    const { data, error } = await api
      .POST("/api/letters/{id}/start-over", { ...path, body: { version: version(), templateId } })
      .catch(noAnswer);
    if (data) onStartOver(data, {});
    else toast.error(wordsOf(error));
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
    onStartOver(l, { subject: caretOf(subject.current), body: caretOf(body.current) });
    const typed = timesTyped(l.id);
    const back = async () => {
      if (!before || timesTyped(l.id) !== typed || unsavedOf(l.id, l.personId))
        return void toast.error("You have gone on writing, so the letter stays formatted.");
      const body = { ...before, version: l.version };
      const { data, error } = await api.POST("/api/letters/{id}/unformat", { ...path, body }).catch(noAnswer);
      if (data) onStartOver(data, {});
      else
        toast.error(
          statusOf(error) === 409 ? "You have gone on writing, so the letter stays formatted." : wordsOf(error),
        );
    };
    toast.success("The letter is formatted.", { action: { label: "Undo", onClick: () => void back() } });
  };

  /** The letter is written on in a window of its own; this one goes back to where the letter is filed. */
  const toOwnWindow = async () => {
    if (!(await flush())) return;
    if (window.open(`/letters/${first.id}`, `letter${first.id}`, "popup,width=1180,height=820")) go(homeOf(letter));
    else toast.error("Your browser blocked the new window; allow pop-ups for this site.");
  };

  const discard = async () => {
    await flush(); // so that Undo brings back the last words
    const { error } = await api.DELETE("/api/letters/{id}", path).catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    dropUnsaved(first.id);
    const restore = async () => {
      const back = await api.POST("/api/letters/{id}/restore", path).catch(noAnswer);
      if (!back.data) return void toast.error(wordsOf(back.error));
      go(`/letters/${first.id}`);
    };
    toast("Draft discarded.", { action: { label: "Undo", onClick: () => void restore() }, duration: 10_000 });
    void queries.invalidateQueries({ queryKey: ["get", "/api/letters"] });
    go(homeOf(letter));
  };

  const loadTheirs = async () => {
    const { data } = await api.GET("/api/letters/{id}", { params: { path: { id: first.id } } });
    if (!data) return;
    replace(data);
    showLetter(data);
  };

  const stopped = letter.stops.length > 0 || draft.saving.status === "failed" || draft.saving.status === "stale";
  // The first press shows the proof, the second one sends, unless the writer wants it at once.
  useCtrlKey("Enter", () => {
    const gap = letter.gaps[0];
    if (sending) return;
    if (stopped) return gap ? toNote(gap.path) : undefined;
    if (open === "proof" || sendsAtOnce()) void send();
    else void flush().then((ok) => ok && setOpen("proof"));
  });

  const notes = useMemo(
    () => [
      ...(formatted && selected.length > 0 && !isFixed(formatted)
        ? [selectedNote(formatted, selected, [], inAddresses(letter))]
        : []),
      ...notesOf(letter, sheet, filling, fill, answer, waved, (code) => setWaved((w) => [...w, code]), {
        onOut: takeOut,
        onSwap: setSwapping,
        onAskNoMore: askNoMore,
        onWriteBack: writeBack,
        onUnlink: unlink,
        onNews: settleNews,
      }),
      ...keptNote(kept, () => setKept([])),
      ...(part === null
        ? []
        : [
            {
              key: `part ${part}`,
              tone: "quiet" as const,
              anchor: () => {
                const box = page.current?.getBoundingClientRect();
                const el = partOf(page.current?.contentDocument, part)?.getBoundingClientRect();
                return box && el ? new DOMRect(box.x + el.x, box.y + el.y, el.width, el.height) : null;
              },
              content: (
                <LetterPartNote
                  key={part}
                  letter={letter}
                  part={part}
                  onKeep={setPartWords}
                  onClose={() => setPart(null)}
                />
              ),
            },
          ]),
    ],
    [
      formatted,
      selected,
      letter,
      filling,
      fill,
      answer,
      waved,
      takeOut,
      askNoMore,
      writeBack,
      unlink,
      settleNews,
      kept,
      setKept,
      part,
      setPartWords,
    ],
  );
  const onSubject = useCallback(
    (e: Editor) => {
      subject.current = e;
      editors.current = { subject: e, body: body.current };
      if (carets.subject) putCaret(e, carets.subject);
    },
    [carets.subject, subject, body],
  );
  const begun = useRef(Boolean(carets.subject || carets.body));
  useEffect(() => {
    // Whoever picked a template or pressed Reply goes on writing; whoever is typing elsewhere is left alone.
    if (begun.current || document.querySelector("[role=dialog]")) return;
    begun.current = true;
    focusAt(subject.current?.isEmpty ? subject.current : body.current, "start");
  }, [subject, body]);
  const onBody = useCallback(
    (e: Editor) => {
      body.current = e;
      editors.current = { subject: subject.current, body: e };
      if (first.body.attrs.body === "formatted") setFormatted(e);
      if (carets.body) putCaret(e, carets.body);
    },
    [first.body.attrs.body, carets.body, body, subject],
  );

  return (
    <div className="flex min-h-full flex-col">
      <FactsStrip letter={letter} onTo={() => setOpen("to")} onWindow={toOwnWindow} />
      {draft.saving.status === "stale" && <Stale onMine={draft.keepMine} onTheirs={loadTheirs} />}
      <div className="mx-auto grid w-full max-w-6xl flex-1 grid-cols-1 gap-x-9 gap-y-4 px-3 py-5 sm:px-6 lg:grid-cols-[minmax(0,1fr)_16.5rem]">
        <div className="min-w-0">
          <div
            ref={sheet}
            className={`min-h-[24rem] border border-rule bg-sheet px-5 py-6 sm:px-12 sm:py-9 ${["formatted", "html"].includes(first.body.attrs.body ?? "") ? "paper" : ""}`}
          >
            <Words
              label="Subject"
              extensions={subjectExtensions}
              first={first.subjectDoc}
              multiline={false}
              className="mb-5 border-b border-rule pb-2 text-[1.35rem]! font-semibold"
              onReady={onSubject}
              onChange={(doc) => change("subject", doc)}
              onGap={toNote}
              onEnter={() => focusAt(body.current, "start")}
            />
            {first.body.attrs.body === "html" ? (
              <PartsFrame shown={letter.page ?? ""} merged chosen={part} frame={page} onChoose={setPart} />
            ) : first.body.attrs.body === "formatted" ? (
              <FormattedWords
                first={first.body}
                onReady={onBody}
                onChange={(doc) => change("body", doc)}
                onGap={toNote}
                onSlash={() => setOpen("piece")}
                onTab={pieces.byShortcut}
              />
            ) : (
              <>
                <div className="-mt-3 mb-2 flex items-center gap-2 text-sm text-ink-soft">
                  <Emoji onPick={(sign) => body.current?.chain().focus().insertContent(sign).run()} />
                  <Button look="quiet" className="px-1.5! text-sm" onClick={formatIt}>
                    <Type size={15} aria-hidden /> Format it
                  </Button>
                  <span className="hidden sm:inline">Plain text. Format it for bold, lists and pictures.</span>
                </div>
                <Words
                  label="Letter"
                  extensions={letterExtensions}
                  first={first.body}
                  onReady={onBody}
                  onChange={(doc) => change("body", doc)}
                  onGap={toNote}
                  onSlash={() => setOpen("piece")}
                  onTab={pieces.byShortcut}
                />
              </>
            )}
          </div>
          <QuoteNote letter={letter} onKeep={setQuote} />
        </div>
        <Margin label="Margin notes" notes={notes} sheet={sheet} tick={letter} />
      </div>
      <Dispatch
        letter={letter}
        saving={draft.saving}
        sending={sending}
        onSend={send}
        onFrom={async (from) => {
          const problem = await around(
            (w) => api.POST("/api/letters/{id}/from", { ...path, body: { ...w, from } }),
            true,
          );
          if (problem) toast.error(problem);
        }}
        when={when}
        onOpen={setOpen}
        onTemplate={() => flush().then((ok) => ok && setOpen("template"))}
        onProof={() => flush().then((ok) => ok && setOpen("proof"))}
        onDiscard={discard}
      />
      {open === "proof" && <Proof letter={letter} when={when} onSend={send} onClose={() => setOpen(null)} />}
      {open === "piece" && (
        <PickPiece
          letter={letter}
          title="Insert into the letter"
          written={isWritten(letter, body.current, subject.current)}
          page={first.body.attrs.body === "html"}
          onInsert={async (from) => {
            setOpen(null);
            await pieces.insert(from);
          }}
          onStartOver={startOver}
          onClose={() => setOpen(null)}
        />
      )}
      {swapping !== null && (
        <PickPiece
          letter={letter}
          title={`Replace “${letter.pieces[swapping]}”`}
          written
          page={false}
          onInsert={async (from) => {
            setSwapping(null);
            await takeOut(swapping, from);
          }}
          onClose={() => setSwapping(null)}
        />
      )}
      {open === "template" && <SaveAsTemplate letter={letter} onClose={() => setOpen(null)} />}
      <AroundDialogs
        open={open}
        letter={letter}
        when={when}
        around={around}
        onWhen={setWhen}
        onKept={setKept}
        onPut={pieces.putBlocks}
        onClose={() => setOpen(null)}
      />
    </div>
  );
}

/** Whether the writer wrote anything: the signature is none of it. */
function isWritten(letter: Letter, body: Editor | null, subject: Editor | null): boolean {
  const words = (text: string) => text.replace(/\s+/g, " ").trim();
  return words(subject?.getText() ?? "") !== "" || words(body?.getText() ?? "") !== words(letter.signature);
}
