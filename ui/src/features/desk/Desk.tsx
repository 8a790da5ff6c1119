import { useQueryClient } from "@tanstack/react-query";
import type { Editor } from "@tiptap/react";
import { useCallback, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { useCtrlKey } from "../../app/keys";
import { Margin } from "../../components/Margin";
import { OfPlan } from "../plans/OfPlan";
import { type Around, AroundDialogs } from "./AroundDialogs";
import { sendsAtOnce } from "./atOnce";
import { Dispatch } from "./Dispatch";
import { FactsStrip } from "./FactsStrip";
import { PickPiece } from "./PickPiece";
import { Proof } from "./Proof";
import { QuoteNote } from "./QuoteNote";
import { SaveAsTemplate } from "./SaveAsTemplate";
import { Sheet } from "./Sheet";
import { Stale } from "./Stale";
import type { Unsaved } from "./unsaved";
import { useAround } from "./useAround";
import { useDeskNotes } from "./useDeskNotes";
import { type Letter, useDraft } from "./useDraft";
import { type Carets, toNote, useEditors } from "./useEditors";
import { useFilling } from "./useFilling";
import { useLetterActs, useSending } from "./useLetterActs";
import { usePieces } from "./usePieces";
import type { When } from "./words";

type Props = {
  first: Letter;
  carets: Carets;
  /** Words of an earlier visit, which `first` shows and the server does not have. */
  unsaved: Unsaved | null;
  onStartOver: (l: Letter, carets: Carets) => void;
};

/** The writing desk: the addressee's facts, the letter, the margin, and the strip that sends it. */
export function Desk({ first, carets, unsaved, onStartOver }: Props) {
  const editors = useEditors(first, carets);
  const draft = useDraft(first, unsaved, useInstead(editors.caretsNow));
  const { letter, flush } = draft;
  const values = useFilling(first.id, draft, editors);
  const acts = useAround(first.id, draft, editors);
  const whole = useLetterActs(draft, editors, onStartOver);
  const [when, setWhen] = useState<When>({ how: "now" });
  const { send, sending, problem, forget } = useSending(draft, editors, when);
  const shown = useRef(""); // the sum of the proof on the screen
  const onShown = useCallback((sum: string) => {
    shown.current = sum;
  }, []);
  const { subject, body } = editors;
  const pieces = usePieces({ letter, subject, body, change: draft.change, around: acts.around });

  const sheet = useRef<HTMLDivElement>(null);
  const frame = useRef<HTMLIFrameElement>(null);
  const [part, setPart] = useState<number | null>(null);
  const page = { frame, part, onPart: setPart };
  const [open, setOpen] = useState<"proof" | "piece" | "template" | Around | null>(null);
  const [swapping, setSwapping] = useState<number | null>(null);
  const notes = useDeskNotes({ letter, sheet, editors, values, acts, page, onSwap: setSwapping });
  const close = () => {
    forget();
    setOpen(null);
  };
  const openSaved = (what: "proof" | "template") =>
    flush().then(async (ok) => {
      if (!ok) return;
      await draft.lookAgain(); // the records may say something else by now
      setOpen(what);
    });

  const go = useNavigate();
  // A letter that is changed within a round goes with the round.
  const toRound = () =>
    flush().then((ok) => ok && go(`/rounds/${letter.roundId}?step=check&person=${letter.personId}`));
  const stopped = letter.stops.length > 0 || draft.saving.status === "failed" || draft.saving.status === "stale";
  // The first press shows the proof, the second one sends, unless the writer wants it at once.
  useCtrlKey("Enter", () => {
    const gap = letter.gaps[0];
    if (sending) return;
    if (letter.roundId) return void toRound();
    if (stopped) return gap ? toNote(gap.path) : undefined;
    if (open === "proof" || sendsAtOnce()) void send(shown.current);
    else void openSaved("proof");
  });

  return (
    <div className="flex min-h-full flex-col">
      <FactsStrip letter={letter} onTo={() => setOpen("to")} onWindow={whole.toOwnWindow} />
      {draft.saving.status === "stale" && <Stale onMine={draft.keepMine} onTheirs={whole.loadTheirs} />}
      <div className="mx-auto grid w-full max-w-6xl flex-1 grid-cols-1 gap-x-9 gap-y-4 px-3 py-5 sm:px-6 lg:grid-cols-[minmax(0,1fr)_16.5rem]">
        <div className="min-w-0">
          {letter.runId && <OfPlan run={letter.runId} letter={letter.id} />}
          <Sheet
            {...{ first, draft, editors, pieces, sheet, page }}
            onFormat={whole.formatIt}
            onSlash={() => setOpen("piece")}
          />
          <QuoteNote letter={letter} onKeep={acts.setQuote} />
        </div>
        <Margin label="Margin notes" notes={notes} sheet={sheet} tick={letter} />
      </div>
      <Dispatch
        letter={letter}
        saving={draft.saving}
        sending={sending}
        onSend={() => void send()}
        onFrom={acts.setFrom}
        when={when}
        onOpen={setOpen}
        onTemplate={() => openSaved("template")}
        onProof={() => openSaved("proof")}
        onDiscard={whole.discard}
        onRound={() => void toRound()}
      />
      {open === "proof" && (
        <Proof
          letter={letter}
          when={when}
          problem={problem}
          onShown={onShown}
          onSend={() => void send(shown.current)}
          onClose={close}
        />
      )}
      {open === "piece" && (
        <PickPiece
          letter={letter}
          title="Insert into the letter"
          written={isWritten(letter, body.current, subject.current)}
          page={first.body.attrs.body === "html"}
          onInsert={async (from) => {
            close();
            await pieces.insert(from);
          }}
          onStartOver={whole.startOver}
          onClose={close}
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
            await acts.takeOut(swapping, from);
          }}
          onClose={() => setSwapping(null)}
        />
      )}
      {open === "template" && <SaveAsTemplate letter={letter} onClose={close} />}
      <AroundDialogs
        open={open}
        letter={letter}
        when={when}
        around={acts.around}
        onWhen={setWhen}
        onPut={pieces.putBlocks}
        onClose={close}
      />
    </div>
  );
}

const instead = {
  sent: "This letter was sent from another window. What you wrote since is in this new draft; it was not sent.",
  discarded: "This letter was discarded in another window. Your words are in this new draft.",
  given: "This letter was given to somebody else in another window. Your words are in this new draft.",
};

/** Goes on in the letter that words were saved to in place of one that is no draft any more. */
function useInstead(caretsNow: () => Carets) {
  const go = useNavigate();
  const queries = useQueryClient();
  return useCallback(
    (l: Letter) => {
      toast.info(instead[l.instead ?? "discarded"], { duration: Infinity, closeButton: true });
      void queries.invalidateQueries({ queryKey: ["get", "/api/letters"] });
      // Whoever is typing goes on where they are.
      go(`/letters/${l.id}`, { replace: true, state: { carets: caretsNow() } });
    },
    [go, queries, caretsNow],
  );
}

/** Whether the writer wrote anything: the signature is none of it. */
function isWritten(letter: Letter, body: Editor | null, subject: Editor | null): boolean {
  const words = (text: string) => text.replace(/\s+/g, " ").trim();
  return words(subject?.getText() ?? "") !== "" || words(body?.getText() ?? "") !== words(letter.signature);
}
