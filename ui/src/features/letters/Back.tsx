import type { Schemas } from "../../api/client";
import { momentOf } from "../../components/time";

type Back = Schemas["Back"];

const times = (n: number, what: string) => (n === 1 ? `${what} once` : `${what} ${n} times`);

/** What came back, shortest first: for lists. */
export function backWords(b: Back): string {
  const said = [
    b.bounced && "came back",
    b.delayed && !b.bounced && "not delivered yet",
    b.complained && "complained",
    b.optedOut && "opted out",
    b.replies > 0 && "answered",
    b.away && "away",
    b.clicks > 0 && times(b.clicks, "clicked"),
    b.documents > 0 && times(b.documents, "document opened"),
    b.opens > 0 && times(b.opens, "opened"),
  ].filter(Boolean);
  if (said.length === 0) return b.measured ? "not opened yet" : "opens not measured";
  if (!b.measured && !b.opened && !b.bounced) said.push("opens not measured");
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
          {times(l.clicks, l.url ? "Followed" : "Looked at")}: {l.name || l.url}
        </p>
      ))}
      {machines > 0 && (
        <p className="text-sm text-ink-soft">
          {times(machines, "Fetched")} by a machine, such as a proxy or a scanner. That is not counted: whether somebody
          read it then is not known.
        </p>
      )}
      {!b.measured && (
        <p className="text-sm text-ink-soft">
          Whether it was opened cannot be known: it is plain text, or measuring was off for it.
        </p>
      )}
    </section>
  );
}

const sentence = (s: string) => `${s.charAt(0).toUpperCase()}${s.slice(1)}.`;
