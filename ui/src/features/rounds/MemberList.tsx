import { Ban, Check, CircleDashed, CircleHelp, Clock, Hand, PenLine, Send, TriangleAlert, X } from "lucide-react";
import type { RefObject } from "react";
import { figures } from "../../components/plural";
import { Select } from "../../components/Select";
import { momentOf } from "../../components/time";
import { headHeight, type Rows, rowHeight } from "../tables/useRows";
import type { Shown } from "./useMembers";
import { groups, type Member, outcomes, type Round } from "./words";

const marks: Record<string, { icon: typeof Check; look: string; says: string }> = {
  good: { icon: Check, look: "text-ok", says: "marked good" },
  ready: { icon: CircleDashed, look: "text-ink-soft", says: "ready, to be proofread" },
  changed: { icon: PenLine, look: "text-main", says: "changed, to be proofread" },
  gap: { icon: TriangleAlert, look: "text-stop", says: "has a gap" },
  skipped: { icon: Ban, look: "text-advice", says: "skipped" },
  "set aside": { icon: Hand, look: "text-ink-soft", says: "set aside" },
  "not checked": { icon: CircleHelp, look: "text-ink-soft", says: "not checked yet" },
  waiting: { icon: Clock, look: "text-ink-soft", says: "waiting" },
  sending: { icon: Clock, look: "text-ink-soft", says: "being sent" },
  sent: { icon: Send, look: "text-ok", says: "sent" },
  refused: { icon: X, look: "text-stop", says: "refused" },
  unsure: { icon: CircleHelp, look: "text-advice", says: "unsure" },
  cancelled: { icon: X, look: "text-ink-soft", says: "cancelled" },
  "taken back": { icon: PenLine, look: "text-ink-soft", says: "taken back" },
};

/** How somebody of a round stands, as a mark with a name. */
export function Mark({ member }: { member: Member }) {
  const key = member.proofread && ["ready", "changed"].includes(member.state) ? "good" : member.state;
  const mark = marks[key] ?? marks["not checked"];
  if (!mark) return null;
  const Icon = mark.icon;
  const own = key === "good" && member.letterId ? ", changed" : "";
  return (
    <span className={`inline-flex shrink-0 items-center ${mark.look}`}>
      <Icon size={15} aria-hidden />
      <span className="sr-only">
        {mark.says}
        {own}
      </span>
    </span>
  );
}

/** What the mark of somebody says, in words. */
export const markWords = (m: Member): string =>
  m.proofread && ["ready", "changed"].includes(m.state) ? "Marked good" : (marks[m.state]?.says ?? m.state);

type Props = {
  round: Round;
  rows: Rows<Member>;
  scroller: RefObject<HTMLDivElement | null>;
  shown: Shown;
  person: number;
  onPerson: (id: number, at: number) => void;
  /** There is room to say why, and when it went. */
  wide?: boolean;
};

/** The people of a round with a mark each, narrowed to where they stand. */
export function MemberList({ round, rows, scroller, shown, person, onPerson, wide = false }: Props) {
  const { groups: g } = round;
  const count = (name: string, n: number) => `${name} (${figures.format(n)})`;
  const choices: [string, string][] = [
    ["", count("Everybody", round.total)],
    ...(g.ready > 0 && !round.endedAt
      ? ([
          ["open", count("To be proofread", g.ready - g.proofread)],
          ["good", count("Marked good", g.proofread)],
        ] as [string, string][])
      : []),
    ...(g.changed > 0 ? ([["changed", count("Changed", g.changed)]] as [string, string][]) : []),
    ...groups.filter(([key]) => g[key] > 0).map(([key, name]): [string, string] => [key, count(name, g[key])]),
    ...(g.told > 0 ? ([["told", count("Did not go after all", g.told)]] as [string, string][]) : []),
    ...outcomes
      .filter(([key]) => (g.outcomes[key] ?? 0) > 0)
      .map(([key, name]): [string, string] => [key, count(name, g.outcomes[key] ?? 0)]),
  ];
  if (!choices.some(([key]) => key === shown.group)) choices.push([shown.group, shown.group]);
  return (
    <section aria-label="People of this round" className="flex min-h-0 flex-1 flex-col bg-sheet">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-3 py-2">
        <Select
          label="Show"
          value={shown.reason || shown.missing ? "alike" : shown.group}
          choices={shown.reason || shown.missing ? [...choices, ["alike", "Those alike"]] : choices}
          onChange={(group) =>
            shown.set({ group: group === "alike" ? "" : group, reason: "", missing: "", person: "" })
          }
        />
        {!wide && (
          <label className="flex items-center gap-1.5 text-sm text-ink-soft">
            <input
              type="checkbox"
              className="accent-main"
              checked={shown.hardest}
              onChange={(e) => shown.set({ hardest: e.target.checked ? "true" : "", person: "" })}
            />
            Hardest first
          </label>
        )}
      </div>
      <div ref={scroller} className="min-h-0 flex-1 overflow-auto">
        <div style={{ height: headHeight }} className="sticky top-0 z-10 border-b border-rule bg-sheet px-3 py-1">
          <input
            type="search"
            aria-label="Find in this round"
            placeholder="Name or email  ( / )"
            defaultValue={shown.q}
            onChange={(e) => shown.set({ q: e.target.value, person: "" })}
            className="w-full bg-transparent text-sm outline-none"
          />
        </div>
        {rows.total === 0 && <p className="px-3 py-4 text-sm text-ink-soft">Nobody here.</p>}
        <ul className="relative" style={{ height: Math.max(0, rows.virtual.getTotalSize() - headHeight) }}>
          {rows.virtual.getVirtualItems().map((item) => {
            const m = rows.rowAt(item.index);
            return (
              <li
                key={item.index}
                className="absolute inset-x-0"
                style={{ height: rowHeight, transform: `translateY(${item.start - headHeight}px)` }}
              >
                {m ? (
                  <button
                    type="button"
                    aria-current={m.personId === person || undefined}
                    // Enter is about the letter then, and not about the line that was pressed.
                    onMouseDown={(event) => event.preventDefault()}
                    onClick={() => onPerson(m.personId, item.index)}
                    title={m.why || undefined}
                    className={`flex h-full w-full items-center gap-2 border-b border-rule px-3 text-left ${m.personId === person ? "bg-main-soft" : "hover:bg-ground"}`}
                  >
                    <Mark member={m} />
                    <span className="min-w-0 flex-1 truncate">
                      {m.name || m.email || "No name"}
                      {m.company && <span className="text-sm text-ink-soft"> · {m.company}</span>}
                    </span>
                    {wide && (
                      <span className="hidden min-w-0 flex-1 truncate text-sm text-ink-soft sm:block">
                        {m.state === "sent" && m.sentAt ? `sent ${momentOf(m.sentAt)}` : m.why || markWords(m)}
                      </span>
                    )}
                    {m.stale && <span className="shrink-0 text-sm text-advice">new words</span>}
                    {m.outcome && <span className="shrink-0 text-sm text-ink-soft">{m.outcome}</span>}
                  </button>
                ) : (
                  <span className="block px-3 py-1 text-ink-soft">…</span>
                )}
              </li>
            );
          })}
        </ul>
      </div>
    </section>
  );
}
