import { useDraggable, useDroppable } from "@dnd-kit/core";
import { GripVertical, Mail, MapPin, MessageSquare, NotebookPen, Phone, SquareCheck } from "lucide-react";
import { useMemo } from "react";
import { $api, type Schemas } from "../../api/client";
import { Actions } from "../../components/Actions";
import { DayMark, Stretch } from "./DayMark";
import { StepForm } from "./StepForm";
import type { Writing } from "./usePlan";
import { nameOf, type Step, timingWords, whatOf } from "./words";

type Props = {
  step: Step;
  at: number;
  plan: Writing;
  open: boolean;
  mayEdit: boolean;
  /** When it comes for the person whose dates are shown. */
  date: Schemas["StepOut"] | undefined;
  wrong: string;
  onOpen: (open: boolean) => void;
  onWrite: () => void;
};

export const icons = { "": SquareCheck, call: Phone, visit: MapPin, note: NotebookPen, text: MessageSquare } as const;

/** A picture of what a step is. */
export function StepIcon({ kind, task }: { kind: string; task: string }) {
  const Icon = kind === "letter" ? Mail : kind === "text" ? MessageSquare : icons[task as keyof typeof icons];
  return <Icon size={15} aria-hidden className="shrink-0 text-ink-soft" />;
}

/** A step at its place on the ruler of days. */
export function StepLine({ step, at, plan, open, mayEdit, date, wrong, onOpen, onWrite }: Props) {
  const { steps } = plan.draft;
  const fields = $api.useQuery("get", "/api/fields").data;
  const labels = useMemo(() => new Map((fields ?? []).map((f) => [f.path, f.label])), [fields]);
  const drag = useDraggable({ id: step.id, disabled: !mayEdit });
  const drop = useDroppable({ id: step.id });
  const first = at === 0;
  const hasBefore = steps.slice(0, at).some((s) => s.kind === "letter");
  return (
    <li
      ref={drop.setNodeRef}
      className={`grid grid-cols-[4.75rem_minmax(0,1fr)] sm:grid-cols-[7.5rem_minmax(0,1fr)] ${drop.isOver ? "bg-main-soft" : ""}`}
    >
      {!first && <Stretch days={step.when.at === "atonce" ? 0 : step.when.days} />}
      <DayMark
        date={date}
        plain={step.when.days === 0 ? (first ? "Start" : "Same day") : `+ ${step.when.days}`}
        unit={
          step.when.days === 0 ? "" : `${step.when.working ? "working " : ""}${step.when.days === 1 ? "day" : "days"}`
        }
      />
      <div
        ref={drag.setNodeRef}
        className={`mb-2 border border-rule bg-sheet px-3 py-2 sm:px-4 ${drag.isDragging ? "opacity-50" : ""} ${open ? "border-main" : ""}`}
      >
        <div className="flex items-start gap-2">
          {mayEdit && (
            <span
              {...drag.listeners}
              aria-hidden
              title="Drag to another place"
              className="-ml-1.5 cursor-grab touch-none pt-1 text-ink-soft"
            >
              <GripVertical size={15} />
            </span>
          )}
          <button
            type="button"
            aria-expanded={open}
            data-step={step.id}
            onClick={() => onOpen(!open)}
            onKeyDown={(e) => {
              if (!e.altKey || !mayEdit || (e.key !== "ArrowUp" && e.key !== "ArrowDown")) return;
              e.preventDefault();
              plan.moveBy(step.id, e.key === "ArrowUp" ? -1 : 1);
              const same = step.id;
              requestAnimationFrame(() => document.querySelector<HTMLElement>(`[data-step="${same}"]`)?.focus());
            }}
            className="min-w-0 flex-1 text-left"
          >
            <span className="flex items-center gap-2">
              <StepIcon kind={step.kind} task={step.task} />
              <span className="sr-only">Step {at + 1}, </span>
              <span className="text-sm text-ink-soft">{whatOf(step)}</span>
            </span>
            <span className={`block truncate ${step.kind === "letter" ? "font-serif text-[1.08rem] font-medium" : ""}`}>
              {nameOf(step, labels)}
            </span>
            <span className="block text-sm text-ink-soft">
              {timingWords(step.when, first)}
              {step.kind === "letter" && step.same && hasBefore && " · same conversation"}
            </span>
          </button>
          {mayEdit && (
            <Actions
              label={`More about step ${at + 1}`}
              items={[
                ["Move up  (Alt ↑)", () => plan.moveBy(step.id, -1)],
                ["Move down  (Alt ↓)", () => plan.moveBy(step.id, 1)],
                null,
                ["Remove the step", () => plan.remove(step.id)],
              ]}
            />
          )}
        </div>
        {wrong && <p className="mt-1 text-sm text-stop">{wrong}</p>}
        {open && mayEdit && (
          <StepForm
            step={step}
            first={first}
            hasBefore={hasBefore}
            onChange={(part) => plan.setStep(step.id, part)}
            onWrite={onWrite}
          />
        )}
        {open && date?.why && <p className="mt-2 text-sm text-advice">{date.why}</p>}
        {open && date && step.kind === "letter" && (
          <div className="mt-3 border-t border-rule pt-3">
            <p className="font-serif text-[1.08rem] font-medium">{date.subject}</p>
            <div className="letter-text text-base!">{date.text.trim()}</div>
          </div>
        )}
        {open && !date && !mayEdit && (
          <p className="mt-2 text-sm text-ink-soft">Choose somebody above to read it as they would get it.</p>
        )}
      </div>
    </li>
  );
}
