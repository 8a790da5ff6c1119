import { useRef, useState } from "react";
import { Link } from "react-router";
import { Button } from "../../components/Button";
import { FieldList } from "../templates/FieldList";
import { ChooseTemplate } from "./ChooseTemplate";
import { TaskKind } from "./TaskKind";
import { TimingFields } from "./TimingFields";
import type { Step } from "./words";

type Props = {
  step: Step;
  first: boolean;
  /** Whether a letter stands before it, in whose conversation it can go on. */
  hasBefore: boolean;
  onChange: (part: Partial<Step>) => void;
  onWrite: () => void;
};

/** What a step is and when it comes. */
export function StepForm({ step, first, hasBefore, onChange, onWrite }: Props) {
  return (
    <div className="mt-3 space-y-4">
      {step.kind === "letter" ? (
        <LetterFields step={step} hasBefore={hasBefore} onChange={onChange} onWrite={onWrite} />
      ) : (
        <WordsFields step={step} onChange={onChange} />
      )}
      <TimingFields when={step.when} first={first} onChange={(when) => onChange({ when })} />
    </div>
  );
}

function LetterFields({ step, hasBefore, onChange, onWrite }: Omit<Props, "first">) {
  const shared = step.templateId !== undefined && !step.ownWording;
  return (
    <>
      <div className="grid items-end gap-x-5 gap-y-3 sm:grid-cols-[minmax(0,1fr)_auto]">
        <ChooseTemplate
          label="Template"
          value={step.templateId ? { id: step.templateId, name: step.template } : null}
          onChoose={(t) => onChange({ templateId: t.id, template: t.name, ownWording: false, news: "", subject: "" })}
        />
        <span className="flex flex-wrap gap-2">
          <Button onClick={onWrite}>
            {step.ownWording
              ? "Edit this plan’s wording"
              : step.templateId
                ? "Edit for this plan only"
                : "Write the letter here"}
          </Button>
          {shared && (
            <Link
              to={`/templates/${step.templateId}`}
              className="inline-flex min-h-8 items-center px-1 text-main underline-offset-4 hover:underline"
            >
              Edit the shared template
            </Link>
          )}
        </span>
      </div>
      {step.ownWording && (
        <p className="text-sm text-ink-soft">
          This letter has words of this plan alone
          {step.templateId ? `; the template “${step.template}” stays as it is` : ""}.
        </p>
      )}
      {hasBefore && (
        <label className="flex items-baseline gap-2">
          <input type="checkbox" checked={step.same} onChange={(e) => onChange({ same: e.target.checked })} />
          <span>
            In the same conversation as the letter before
            <span className="text-ink-soft"> (its subject with “Re:”)</span>
          </span>
        </label>
      )}
    </>
  );
}

function WordsFields({ step, onChange }: { step: Step; onChange: (part: Partial<Step>) => void }) {
  const area = useRef<HTMLTextAreaElement>(null);
  const [picking, setPicking] = useState<"" | "typed" | "asked">("");
  const insert = (words: string) => {
    setPicking("");
    const at = area.current?.selectionStart ?? step.words.length;
    onChange({ words: step.words.slice(0, at) + words + step.words.slice(at) });
    requestAnimationFrame(() => {
      area.current?.focus();
      area.current?.setSelectionRange(at + words.length, at + words.length);
    });
  };
  return (
    <>
      {step.kind === "task" && <TaskKind value={step.task} onChange={(task) => onChange({ task })} />}
      <div>
        <label className="block">
          <span className="block text-sm text-ink-soft">
            {step.kind === "task" ? "What is to be done" : "What the text message says"}
          </span>
          <textarea
            ref={area}
            rows={3}
            value={step.words}
            onChange={(e) => onChange({ words: e.target.value })}
            onKeyDown={(e) => {
              if (e.key !== "{" || e.ctrlKey || e.metaKey) return;
              e.preventDefault();
              setPicking("typed");
            }}
            className="block w-full border border-rule-strong bg-sheet px-2 py-1 outline-none focus:border-main"
          />
        </label>
        <p className="mt-1 flex flex-wrap items-baseline gap-x-3 text-sm text-ink-soft">
          <Button look="quiet" className="px-0! text-sm" onClick={() => setPicking("asked")}>
            Insert a field
          </Button>
          {step.kind === "text" && "Text messages aren’t sent from here yet: it becomes a task for you on that day."}
        </p>
      </div>
      {picking && (
        <FieldList
          onPick={(f) => insert(`{{${f.path}}}`)}
          // No field was picked: the brace that was typed stays.
          onClose={() => (picking === "typed" ? insert("{") : setPicking(""))}
        />
      )}
    </>
  );
}
