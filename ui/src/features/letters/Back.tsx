import type { Schemas } from "../../api/client";
import { times } from "../../components/plural";
import { momentOf } from "../../components/time";

type Back = Schemas["Back"];

const often = (n: number, what: string) => `${what} ${times(n)}`;

/** What came back, shortest first: for lists. */
export function backWords(b: Back): string {
  const said = [
    b.bounced && "bounced",
    b.delayed && !b.bounced && "not delivered yet",
    b.complained && "complained",
    b.optedOut && "opted out",
    b.replies > 0 && "replied to",
    b.away && "away",
    b.clicks > 0 && often(b.clicks, "clicked"),
    b.documents > 0 && often(b.documents, "document opened"),
    b.opens > 0 && often(b.opens, "opened"),
  ].filter(Boolean);
  if (said.length === 0) return b.measured ? "not opened yet" : "opens not tracked";
  if (!b.measured && !b.opened && !b.bounced) said.push("opens not tracked");
  return said.join(" · ");
}

/** How a list shows it: what needs the writer first. */
export function backTone(b: Back): string {
  if (b.bounced || b.complained || b.optedOut) return "text-stop";
  if (b.replies > 0) return "font-semibold text-ok";
  return "text-ink-soft";
}

/** What came back of one letter, said in full; how sure it is, too. */
export function BackNote({ back: b }: { back: Back }) {
  const machines = b.machineOpens + b.machineClicks;
  const links = (b.links ?? []).filter((l) => l.clicks > 0);
  return (
    <section aria-label="What came back" className="mt-4 border-l-3 border-rule-strong py-1 pl-3">
      <p className={backTone(b).replace("text-ink-soft", "")}>
        {sentence(backWords(b))}
        {b.lastOpen && <span className="font-normal text-ink-soft"> The last time {momentOf(b.lastOpen)}.</span>}
      </p>
      {links.map((l) => (
        <p key={l.id} className="truncate text-sm" title={l.url || l.name}>
          {often(l.clicks, l.url ? "Followed" : "Looked at")}: {l.name || l.url}
        </p>
      ))}
      {machines > 0 && (
        <p className="text-sm text-ink-soft">
          {often(machines, "Fetched")} by a machine, such as a proxy or a scanner. That is not counted: whether somebody
          read it isn’t known.
        </p>
      )}
      {!b.measured && (
        <p className="text-sm text-ink-soft">
          There’s no way to know whether it was opened: it was plain text, or tracking was off.
        </p>
      )}
    </section>
  );
}

const sentence = (s: string) => `${s.charAt(0).toUpperCase()}${s.slice(1)}.`;
