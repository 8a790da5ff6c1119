import { useRef } from "react";
import type { Schemas } from "../../api/client";
import { useKeys } from "../../app/keys";
import { clockOf, longDayOf } from "../../components/time";

type Entry = Schemas["Entry"];

const words: Record<string, string> = {
  created: "Added",
  imported: "Imported",
  changed: "Changed",
  sent: "Letter",
  refused: "Refused",
  opened: "Opened",
  clicked: "Clicked",
  replied: "Answered",
  answered: "Answer",
  bounced: "Bounced",
  "opted out": "Opted out",
};

function tone(kind: string): string {
  if (kind === "replied" || kind === "answered") return "text-ok font-semibold";
  if (kind === "bounced" || kind === "refused" || kind === "opted out") return "text-stop font-semibold";
  return "text-ink-soft";
}

/** What happened, a ruled line each, by day. */
export function Ledger({
  entries,
  open,
  onOpen,
}: {
  entries: Entry[];
  open: number | undefined;
  onOpen: (letter: number) => void;
}) {
  const list = useRef<HTMLOListElement>(null);
  const step = (by: number) => {
    const buttons = [...(list.current?.querySelectorAll<HTMLButtonElement>("button") ?? [])];
    const at = buttons.indexOf(document.activeElement as HTMLButtonElement);
    buttons[Math.max(0, Math.min(buttons.length - 1, at + by))]?.focus();
  };
  useKeys({ j: () => step(1), k: () => step(-1), ArrowDown: () => step(1), ArrowUp: () => step(-1) });
  const days = new Map<string, Entry[]>();
  for (const e of entries) {
    const day = longDayOf(e.at);
    days.set(day, [...(days.get(day) ?? []), e]);
  }
  return (
    <section aria-label="History">
      <ol ref={list}>
        {[...days].map(([day, list]) => (
          <li key={day}>
            <h2 className="border-b border-rule px-4 pt-4 pb-1 text-sm font-semibold text-ink-soft sm:px-6">{day}</h2>
            <ol>
              {list.map((e) => (
                <li key={e.id} className="border-b border-rule">
                  <Line entry={e} open={e.letterId === open && e.kind === "sent"} onOpen={onOpen} />
                </li>
              ))}
            </ol>
          </li>
        ))}
      </ol>
    </section>
  );
}

function Line({ entry, open, onOpen }: { entry: Entry; open: boolean; onOpen: (letter: number) => void }) {
  const inner = (
    <>
      <span className="w-10 shrink-0 text-sm text-ink-soft">{clockOf(entry.at)}</span>
      <span className={`w-18 shrink-0 text-sm ${tone(entry.kind)}`}>{words[entry.kind] ?? entry.kind}</span>
      <span className={`min-w-0 flex-1 ${entry.kind === "sent" ? "font-serif" : "text-sm"}`}>{entry.text}</span>
    </>
  );
  const look = "flex w-full items-baseline gap-2 px-4 py-1.5 text-left sm:px-6";
  const letter = entry.letterId;
  if (!letter) return <div className={look}>{inner}</div>;
  return (
    <button
      type="button"
      aria-current={open ? "true" : undefined}
      onClick={() => onOpen(letter)}
      className={`${look} ${open ? "bg-main-soft shadow-[inset_3px_0_0] shadow-main" : "hover:bg-sheet"}`}
    >
      {inner}
    </button>
  );
}
