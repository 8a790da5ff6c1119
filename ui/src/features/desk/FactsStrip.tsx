import { ChevronDown, SquareArrowOutUpRight } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import type { Letter } from "./useDraft";

const shown = [
  "person.job_title",
  "company.name",
  "person.city",
  "lead.status",
  "lead.own.volume",
  "deal.name",
  "deal.amount",
];
/** What says itself what it is; of others the name stands with the value. */
const plain = new Set(["person.job_title", "company.name", "person.city", "deal.name", "deal.amount"]);
const named = new Set(["person.first_name", "person.last_name", "person.full_name", "person.email", "person.kind"]);
const groups: Record<string, string> = {
  person: "Person",
  lead: "Lead",
  contact: "Contact",
  company: "Company",
  deal: "Deal",
  "deal.main_contact": "Main contact",
  owner: "Owner",
  sender: "Sender",
  team: "Team",
  today: "Day",
};

/** The record's values as one quiet line over the letter; it opens downwards. */
export function FactsStrip({ letter, onTo, onWindow }: { letter: Letter; onTo: () => void; onWindow: () => void }) {
  const [open, setOpen] = useState(false);
  const line = letter.facts.filter((f) => shown.includes(f.path));
  const byRecord = new Map<string, Letter["facts"]>();
  for (const f of letter.facts) if (!named.has(f.path)) byRecord.set(f.record, [...(byRecord.get(f.record) ?? []), f]);
  return (
    <section aria-label="Facts" className="border-b border-rule bg-sheet/60 px-4 py-1.5 sm:px-6">
      <div className="flex items-baseline gap-x-4">
        <p className="min-w-0 flex-1 truncate">
          <Link to={`/people/${letter.personId}`} className="font-serif text-lg font-semibold hover:underline">
            {letter.person}
          </Link>
          {letter.internal && <span className="ml-3 text-sm">subject of this internal email</span>}
          <button type="button" className="ml-3 text-sm text-main hover:underline" onClick={onTo}>
            {letter.internal ? "Change colleagues" : "Change recipient"}
          </button>
          <span className="ml-3 text-ink-soft">
            {line.map((f) => (plain.has(f.path) ? f.value : `${f.label}: ${f.value}`)).join(" · ")}
          </span>
        </p>
        <button
          type="button"
          onClick={onWindow}
          title="Open this letter in a new window"
          className="hidden shrink-0 items-center gap-1 self-center text-main hover:underline sm:flex"
        >
          <SquareArrowOutUpRight size={14} aria-hidden /> Open in a new window
        </button>
        <button
          type="button"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
          className="flex shrink-0 items-center gap-1 self-center text-main hover:underline"
        >
          All facts <ChevronDown size={15} aria-hidden className={open ? "rotate-180" : ""} />
        </button>
      </div>
      {open && (
        <div className="grid max-h-64 grid-cols-1 gap-x-8 gap-y-3 overflow-auto py-3 sm:grid-cols-3 lg:grid-cols-5">
          {[...byRecord].map(([record, facts]) => (
            <div key={record}>
              <h3 className="text-sm font-semibold text-ink-soft">{groups[record] ?? record}</h3>
              <dl>
                {facts.map((f) => (
                  <div key={f.path} className="text-sm">
                    <dt className="inline text-ink-soft">{f.label}: </dt>
                    <dd className="inline break-words">{f.value}</dd>
                  </div>
                ))}
              </dl>
            </div>
          ))}
        </div>
      )}
    </section>
  );
}
