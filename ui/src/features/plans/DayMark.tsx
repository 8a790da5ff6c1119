import type { Schemas } from "../../api/client";
import { clockNow } from "../../app/clock";
import { plural } from "../../components/plural";
import { localDay } from "./words";

/** The stretch of the ruler between two steps: a tick for each day, cut where it is long. */
export function Stretch({ days }: { days: number }) {
  const ticks = Math.min(days, 10);
  return (
    <>
      <div
        aria-hidden
        className="relative ml-auto w-3 border-r border-rule-strong"
        style={{
          height: Math.max(ticks, 1) * 7,
          backgroundImage: "repeating-linear-gradient(to bottom, transparent 0 6px, var(--rule-strong) 6px 7px)",
        }}
      />
      <div className="self-center pl-3 text-xs text-ink-soft">{days > 10 ? plural(days, "day") : ""}</div>
    </>
  );
}

type Props = { date?: Schemas["StepOut"] | undefined; plain?: string; unit?: string; done?: boolean };

/** Where a step stands on the ruler: its real day where one is known, else how far it is from the one before. */
export function DayMark({ date, plain = "", unit = "", done = false }: Props) {
  const now = clockNow().toISOString();
  return (
    <div className="relative border-r border-rule-strong pt-1.5 pr-3 text-right text-sm">
      <span
        aria-hidden
        className={`absolute top-3 -right-[5px] size-[9px] rounded-full border border-main ${done ? "bg-main" : "bg-sheet"}`}
      />
      {date ? (
        <>
          <span className="block font-semibold">{localDay(date.local, now)}</span>
          <span className="block text-ink-soft">{date.local.slice(11)}</span>
          {date.over && <span className="block text-xs text-advice">after {date.over}</span>}
          {date.shift && <span className="block text-xs text-advice">the clocks change</span>}
        </>
      ) : (
        <>
          <span className="block font-semibold">{plain}</span>
          <span className="block text-ink-soft">{unit}</span>
        </>
      )}
    </div>
  );
}
