import { Eye, Send, Trash2 } from "lucide-react";
import { wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import type { Letter, Saving } from "./useDraft";

function savedWords(s: Saving): string {
  switch (s.status) {
    case "saved":
      return "Saved";
    case "changed":
    case "saving":
      return "Saving …";
    case "stale":
      return "Not saved: changed in another window";
    case "failed":
      return `Not saved yet. ${wordsOf(s.error)}`;
  }
}

/** Says in a few words what keeps the letter from going. */
export function missingWords(letter: Letter): string {
  const gaps = letter.gaps.map((g) => g.label);
  if (gaps.length > 0)
    return `Missing: ${gaps.slice(0, 2).join(", ")}${gaps.length > 2 ? ` and ${gaps.length - 2} more` : ""}`;
  const code = letter.stops[0]?.code;
  if (code === "empty") return letter.stops[0]?.part === "subject" ? "Missing: a subject" : "Missing: the letter";
  if (code === "optedout") return "May not be written to";
  if (code === "noaddress") return "Missing: an address";
  if (code === "fixed") return "Fixed wording was changed";
  if (code === "leftover") return `Left over: ${letter.stops[0]?.text}`;
  return "Cannot go yet";
}

type Props = {
  letter: Letter;
  saving: Saving;
  sending: boolean;
  onSend: () => void;
  onProof: () => void;
  onThrowAway: () => void;
};

export function Dispatch({ letter, saving, sending, onSend, onProof, onThrowAway }: Props) {
  const stopped = letter.stops.length > 0;
  return (
    <section
      aria-label="Dispatch"
      className="sticky bottom-0 z-20 flex flex-wrap items-center gap-x-5 gap-y-2 border-t border-rule-strong bg-ground px-4 py-2.5 sm:px-6"
    >
      <p className="hidden min-w-0 truncate text-sm sm:block">
        <span className="text-ink-soft">From</span> {letter.fromName}{" "}
        <span className="text-ink-soft">&lt;{letter.fromEmail}&gt;</span>
      </p>
      <p className="min-w-0 truncate text-sm">
        <span className="text-ink-soft">To</span> {letter.toName}{" "}
        <span className="text-ink-soft">&lt;{letter.toEmail || "no address"}&gt;</span>
        {letter.deal && <span className="text-ink-soft"> · about {letter.deal}</span>}
      </p>
      <p
        role="status"
        className={`text-sm ${saving.status === "failed" || saving.status === "stale" ? "text-stop" : "text-ink-soft"}`}
      >
        {savedWords(saving)}
      </p>
      <div className="ml-auto flex items-center gap-2">
        <Button look="quiet" onClick={onThrowAway} aria-label="Throw away">
          <Trash2 size={15} aria-hidden /> <span className="hidden sm:inline">Throw away</span>
        </Button>
        <Button onClick={onProof}>
          <Eye size={15} aria-hidden /> Proof
        </Button>
        <Button look="main" disabled={stopped || sending} onClick={onSend} title="Ctrl Enter">
          {stopped ? (
            missingWords(letter)
          ) : (
            <>
              <Send size={15} aria-hidden /> Send to {letter.person}
            </>
          )}
        </Button>
      </div>
    </section>
  );
}
