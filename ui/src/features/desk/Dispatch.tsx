import { Clock, Eye, FilePlus, Paperclip, Send, Trash2 } from "lucide-react";
import { $api, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { plural } from "../../components/plural";
import type { Letter, Saving } from "./useDraft";
import { missingWords, sizeOf, toWhom, type When, whenWords } from "./words";

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

type Props = {
  letter: Letter;
  saving: Saving;
  sending: boolean;
  when: When;
  onOpen: (what: "piece" | "ask" | "copies" | "files" | "when") => void;
  onFrom: (email: string) => void;
  onSend: () => void;
  onTemplate: () => void;
  onProof: () => void;
  onDiscard: () => void;
  /** Goes back to the round within which the letter is changed. */
  onRound: () => void;
};

export function Dispatch({
  letter,
  saving,
  sending,
  when,
  onOpen,
  onFrom,
  onSend,
  onTemplate,
  onProof,
  onDiscard,
  onRound,
}: Props) {
  const unsaved = saving.status === "failed" || saving.status === "stale";
  const stopped = letter.stops.length > 0 || unsaved;
  const copies = letter.cc.length + letter.bcc.length;
  const files = letter.attachments.length;
  const later = whenWords(when, letter);
  return (
    <section
      aria-label="Dispatch"
      className="sticky bottom-0 z-20 flex flex-wrap items-center gap-x-5 gap-y-2 border-t border-rule-strong bg-ground px-4 py-2.5 sm:px-6"
    >
      <From letter={letter} onFrom={onFrom} />
      <p className="min-w-0 truncate text-sm">
        <span className="text-ink-soft">To</span> {letter.toName}{" "}
        <span className="text-ink-soft">&lt;{letter.toEmail || "no address"}&gt;</span>
        {letter.alsoTo.length > 0 && ` +${letter.alsoTo.length}`}
        {letter.deal && <span className="text-ink-soft"> · about {letter.deal}</span>}
      </p>
      <div className="flex flex-wrap gap-x-0 sm:gap-x-1">
        <Button look="quiet" className="px-1! text-sm sm:px-1.5! sm:text-base" onClick={() => onOpen("piece")}>
          Insert
        </Button>
        {letter.body.attrs.body !== "html" && !letter.internal && (
          <Button look="quiet" className="px-1! text-sm sm:px-1.5! sm:text-base" onClick={() => onOpen("ask")}>
            Ask
          </Button>
        )}
        <Button look="quiet" className="px-1! text-sm sm:px-1.5! sm:text-base" onClick={() => onOpen("copies")}>
          {copies ? `Copies: ${copies}` : "Copies"}
        </Button>
        <Button look="quiet" className="px-1! text-sm sm:px-1.5! sm:text-base" onClick={() => onOpen("files")}>
          <Paperclip size={15} aria-hidden />
          {files ? `${plural(files, "file")}, ${sizeOf(letter.wireSize)}` : "Attach"}
        </Button>
        {!letter.roundId && (
          <Button look="quiet" className="px-1! text-sm sm:px-1.5! sm:text-base" onClick={() => onOpen("when")}>
            <Clock size={15} aria-hidden />
            {when.how === "now" ? "When: now" : "When: later"}
            {when.remind && ", remind"}
          </Button>
        )}
      </div>
      <p
        role="status"
        className={`text-sm ${saving.status === "failed" || saving.status === "stale" ? "text-stop" : "text-ink-soft"}`}
      >
        {savedWords(saving)}
      </p>
      <div className="ml-auto flex flex-wrap items-center gap-2">
        <Button look="quiet" className="px-1.5! sm:px-3!" onClick={onTemplate} aria-label="Save as template">
          <FilePlus size={15} aria-hidden /> <span className="hidden sm:inline">Save as template</span>
        </Button>
        <Button look="quiet" className="px-1.5! sm:px-3!" onClick={onDiscard}>
          <Trash2 size={15} aria-hidden /> Discard<span className="sr-only"> draft</span>
        </Button>
        <Button onClick={onProof}>
          <Eye size={15} aria-hidden /> Proof
        </Button>
        {letter.roundId ? (
          <Button look="main" disabled={unsaved} onClick={onRound} title="Ctrl Enter">
            {unsaved ? "Not saved yet" : "Back to the round"}
          </Button>
        ) : (
          <Button look="main" disabled={stopped || sending} onClick={onSend} title="Ctrl Enter">
            {unsaved ? (
              "Not saved yet"
            ) : stopped ? (
              missingWords(letter)
            ) : (
              <>
                <Send size={15} aria-hidden /> Send to {toWhom(letter)}
                {later && `, ${later}`}
              </>
            )}
          </Button>
        )}
      </div>
    </section>
  );
}

/** The address that the letter goes from; chosen where there are several. */
function From({ letter, onFrom }: { letter: Letter; onFrom: (email: string) => void }) {
  const froms = $api.useQuery("get", "/api/me/from", {}, { staleTime: 60_000 }).data ?? [];
  if (froms.length < 2)
    return (
      <p className="hidden min-w-0 truncate text-sm sm:block">
        <span className="text-ink-soft">From</span> {letter.fromName}{" "}
        <span className="text-ink-soft">&lt;{letter.fromEmail}&gt;</span>
      </p>
    );
  return (
    <label className="min-w-0 text-sm">
      <span className="text-ink-soft">From</span>{" "}
      <select
        value={letter.fromEmail}
        onChange={(e) => onFrom(e.target.value)}
        className="max-w-64 border-b border-rule-strong bg-ground py-0.5"
      >
        {!froms.some((f) => f.email === letter.fromEmail) && <option>{letter.fromEmail}</option>}
        {froms.map((f) => (
          <option key={f.email} value={f.email}>
            {f.name} &lt;{f.email}&gt;
          </option>
        ))}
      </select>
    </label>
  );
}
