import { useId, useState } from "react";
import type { Schemas } from "../../api/client";
import { ValueInput } from "../../components/ValueInput";

type Props = {
  gap: Schemas["Gap"];
  toRecord: boolean;
  busy: boolean;
  problem: string;
  doubt: Schemas["Suggestion"] | undefined;
  onRight: (doubt: Schemas["Suggestion"]) => void;
  onFill: (value: string, alsoRecord: boolean) => void;
};

/** A value that is missing, with the place to give it. */
export function GapNote({ gap, toRecord, busy, problem, doubt, onRight, onFill }: Props) {
  const [also, setAlso] = useState(false);
  const id = useId();
  return (
    <div data-gap-note={gap.path}>
      <p className="text-sm">
        <b className={gap.kind ? "text-advice" : "text-stop"}>{gap.label}</b>{" "}
        {gap.kind ? gap.hint || "is for you to fill in" : "is missing"}
        {gap.count > 1 ? ` (in ${gap.count} places)` : ""}
      </p>
      <ValueInput
        label={gap.label}
        type={gap.type}
        choices={gap.choices}
        value=""
        busy={busy}
        autoFocus={false}
        onDone={(value) => value.trim() && onFill(value, also)}
      />
      {doubt && (
        <p className="mt-1 text-sm text-ink-soft">
          The record says “{doubt.value}”, which counts as missing.{" "}
          <button type="button" className="text-main underline" onClick={() => onRight(doubt)}>
            Use it anyway<span className="sr-only">: {doubt.value}</span>
          </button>
        </p>
      )}
      {toRecord && (
        <label htmlFor={id} className="mt-1 flex items-center gap-1.5 text-sm text-ink-soft">
          <input id={id} type="checkbox" checked={also} onChange={(e) => setAlso(e.target.checked)} /> save on the
          record too
        </label>
      )}
      {problem && <p className="mt-1 text-sm text-stop">{problem}</p>}
    </div>
  );
}
