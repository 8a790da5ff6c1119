import { Braces, FileCode2, Mails, PenLine, Type } from "lucide-react";
import { useState } from "react";
import { useWriting } from "../../app/writing";
import { Actions } from "../../components/Actions";
import { Button } from "../../components/Button";
import { StartRound } from "../rounds/StartRound";
import { AskLanguage } from "./LanguageSelect";
import type { Template, TemplateDraft } from "./useTemplate";

type Props = {
  draft: TemplateDraft;
  /** What can be done with a wording that has no chips; without it, none is on the sheet. */
  plain: { onFormat?: () => void; onField?: () => void; onPage: () => void } | undefined;
  onCopy: () => void;
};

/** The strip along the bottom: how the template stands, and what can be done with it. */
export function Strip({ draft, plain, onCopy }: Props) {
  const { stored, changed, busy, store, notes } = draft;
  const write = useWriting();
  const [starting, setStarting] = useState(false);
  const [asking, setAsking] = useState(false);
  // Dates and amounts are written in some language: where the words are too few to tell, it is asked for.
  const ready = () =>
    draft.text.language || draft.taken || stored.state === "ready" ? void store("ready") : setAsking(true);
  const stops = notes.filter((n) => n.severity === "stops").length;
  // On a phone they stand behind one button, so that the row never breaks.
  const seldom: [string, () => void][] = [];
  if (plain) seldom.push(["Import", plain.onPage]);
  if (plain?.onFormat) seldom.push(["Format it", plain.onFormat]);
  if (stored.state === "ready" && !changed) seldom.push(["Use this template", () => write({ templateId: stored.id })]);
  const withdrawable = stored.state !== "withdrawn" && stored.next.includes("withdrawn");
  if (withdrawable && !busy) seldom.push(["Withdraw", () => store("withdrawn")]);
  if (stored.state === "ready" && !changed) seldom.push(["Start a round", () => setStarting(true)]);
  return (
    <section
      aria-label="Template"
      className="sticky bottom-0 z-20 flex flex-wrap items-center gap-x-4 gap-y-2 border-t border-rule-strong bg-ground px-4 py-2.5 sm:px-6"
    >
      <p role="status" className="min-w-0 text-sm text-ink-soft">
        {standing(stored, changed)}
      </p>
      {!stored.mayEdit && (
        <div className="ml-auto flex flex-wrap gap-2">
          <Button onClick={onCopy}>Make my own copy</Button>
          {stored.state === "ready" && (
            <Button look="main" onClick={() => write({ templateId: stored.id })}>
              <PenLine size={15} aria-hidden /> Use this template
            </Button>
          )}
          {stored.state === "ready" && !changed && (
            <Button className="max-sm:hidden" onClick={() => setStarting(true)}>
              <Mails size={15} aria-hidden /> Round
            </Button>
          )}
        </div>
      )}
      {stored.mayEdit && (
        <div className="ml-auto flex flex-wrap items-center gap-2">
          {seldom.length > 0 && (
            <div className="sm:hidden">
              <Actions atFoot label="More for this template" items={seldom} />
            </div>
          )}
          {plain && (
            <>
              <Button className="max-sm:hidden" onClick={plain.onPage} title="A page made in another program">
                <FileCode2 size={15} aria-hidden /> Import
              </Button>
              {plain.onFormat && (
                <Button
                  className="max-sm:hidden"
                  onClick={plain.onFormat}
                  title="Headings, lists, links, pictures, tables, columns and buttons"
                >
                  <Type size={15} aria-hidden /> Format it
                </Button>
              )}
              {plain.onField && (
                <Button onClick={plain.onField}>
                  <Braces size={15} aria-hidden /> Merge field
                </Button>
              )}
            </>
          )}
          {stored.state === "ready" && !changed && (
            <Button className="max-sm:hidden" onClick={() => write({ templateId: stored.id })}>
              <PenLine size={15} aria-hidden /> Use this template
            </Button>
          )}
          {stored.state === "ready" && !changed && (
            <Button className="max-sm:hidden" onClick={() => setStarting(true)}>
              <Mails size={15} aria-hidden /> Round
            </Button>
          )}
          {withdrawable && (
            <Button className="max-sm:hidden" onClick={() => store("withdrawn")} disabled={busy}>
              Withdraw
            </Button>
          )}
          {stored.state !== "ready" && (
            <Button
              onClick={() => store("draft")}
              disabled={busy || (!changed && stored.state === "draft" && stored.id > 0)}
            >
              Save as draft
            </Button>
          )}
          <Button look="main" onClick={ready} disabled={busy || stops > 0 || (!changed && stored.state === "ready")}>
            {stops > 0
              ? stops === 1
                ? "1 error"
                : `${stops} errors`
              : stored.state === "ready"
                ? "Save new version"
                : "Make ready"}
          </Button>
        </div>
      )}
      {asking && (
        <AskLanguage
          onClose={() => setAsking(false)}
          onChosen={(language) => {
            setAsking(false);
            void store("ready", undefined, language);
          }}
        />
      )}
      {starting && <StartRound template={stored} onClose={() => setStarting(false)} />}
    </section>
  );
}

/** Says in a sentence who can pick the template now, and why not. */
function standing(t: Template, changed: boolean): string {
  if (!t.mayEdit) return `Owned by ${t.owner}. You can use it but not change it.`;
  if (!t.id) return "Not saved yet.";
  const whom = {
    "": "everybody",
    everybody: "everybody",
    owner: "only the owner",
    some: "people it is shared with",
  }[t.counts.audience.who];
  const who = {
    ready: `Ready: ${whom} can use it.`,
    draft: "Draft: nobody can use it until it’s ready.",
    withdrawn: "Withdrawn: nobody can use it.",
  }[t.state];
  return `${who} Version ${t.version}${changed ? ", with unsaved changes" : ""}.`;
}
