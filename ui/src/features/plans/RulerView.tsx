import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { Button } from "../../components/Button";
import { Asks, type Fills } from "./Asks";
import { DayMark, Stretch } from "./DayMark";
import { StepIcon } from "./StepLine";
import { whatOf } from "./words";

type StepOut = Schemas["StepOut"];

type Props = {
  ruler: Schemas["RulerOut"];
  /** The step that comes next, and what can be done with it. */
  next?: { key: number; acts: React.ReactNode };
  fills?: Fills;
  onFills?: (fills: Fills) => void;
};

/** How many days lie between two steps, on their clocks. */
const daysBetween = (a: StepOut | undefined, b: StepOut) =>
  a ? Math.max(0, Math.round((Date.parse(b.local.slice(0, 10)) - Date.parse(a.local.slice(0, 10))) / 86_400_000)) : 0;

/** The steps of a plan on their days for one person: what came, and what comes, with the letters as they would be. */
export function RulerView({ ruler, next, fills, onFills }: Props) {
  return (
    <ol aria-label={`${ruler.plan} for ${ruler.person}`}>
      {ruler.steps.map((s, i) => (
        <li key={s.key} className="grid grid-cols-[4.75rem_minmax(0,1fr)] sm:grid-cols-[7.5rem_minmax(0,1fr)]">
          {i > 0 && <Stretch days={daysBetween(ruler.steps[i - 1], s)} />}
          <DayMark date={s} done={s.done} />
          <One
            step={s}
            zone={ruler.zone}
            acts={next?.key === s.key && !s.done ? next.acts : null}
            fills={fills}
            onFills={onFills}
          />
        </li>
      ))}
    </ol>
  );
}

type OneProps = {
  step: StepOut;
  zone: string;
  acts: React.ReactNode;
  fills: Fills | undefined;
  onFills: ((fills: Fills) => void) | undefined;
};

function One({ step: s, zone, acts, fills, onFills }: OneProps) {
  const [open, setOpen] = useState(false);
  const words = s.text.trim();
  return (
    <div className={`mb-2 border border-rule bg-sheet px-4 py-2 ${s.done ? "opacity-80" : ""}`}>
      <span className="flex flex-wrap items-center gap-x-2 text-sm text-ink-soft">
        <StepIcon kind={s.kind === "skipped" ? "task" : s.kind} task={s.task} />
        {whatOf(s)}
        {s.done && (s.skipped ? " · left out" : " · done")}
        {s.same && " · same conversation"}
        {s.zone !== zone && !s.done && <span className="ml-auto">{s.zone}</span>}
      </span>
      <span className={`block ${s.kind === "letter" ? "font-serif text-[1.08rem] font-medium" : ""}`}>
        {s.done && s.letterId ? (
          <Link to={`/letters/${s.letterId}`} className="hover:underline">
            {s.name}
          </Link>
        ) : (
          s.subject || (!s.done && s.kind !== "letter" && words) || s.name
        )}
      </span>
      {s.why && (
        <p className="text-sm text-stop">
          {s.why}
          {s.done ? "" : s.letterId ? "." : ". It waits for you on that day."}
          {s.letterId && !s.done && (
            <>
              {" "}
              <Link to={`/letters/${s.letterId}`} className="font-semibold underline">
                Proofread the letter
              </Link>
            </>
          )}
        </p>
      )}
      {!s.done && s.kind === "letter" && words && (
        <>
          <div className={`letter-text mt-1 text-base! ${open ? "" : "line-clamp-3 text-ink-soft"}`}>{words}</div>
          <Button look="quiet" className="px-0! text-sm" aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? "Show less" : "Show the whole letter"}
            <span className="sr-only"> “{s.subject || s.name}”</span>
          </Button>
        </>
      )}
      {!s.done && !s.letterId && s.asks.length > 0 && fills && onFills && (
        <Asks asks={s.asks} fills={fills} onFills={onFills} />
      )}
      {acts && <div className="mt-2 flex flex-wrap gap-2 border-t border-rule pt-2">{acts}</div>}
    </div>
  );
}
