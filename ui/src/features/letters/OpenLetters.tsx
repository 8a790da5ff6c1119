import { Link } from "react-router";
import { $api, type Schemas } from "../../api/client";
import { clockNow } from "../../app/clock";
import { clockOf, dayOf, form, momentOf } from "../../components/time";
import { placeOf } from "../desk/words";

export type OpenLetter = Schemas["OpenLetter"];
type Of = { person?: number; company?: number; deal?: number };

/** My letters that have not gone, of one record or of all, looked at again while they are shown. */
export function useOpenLetters(of: Of = {}, enabled = true) {
  return $api.useQuery(
    "get",
    "/api/open-letters",
    { params: { query: of } },
    { refetchInterval: 5000, staleTime: 0, enabled },
  );
}

/** What becomes of a letter next: "Goes tomorrow 09:00 in Berlin", "Draft of 10:28". */
export function openWords(l: OpenLetter, now = clockNow()): string {
  switch (l.state) {
    case "draft": {
      const today = dayOf(l.updatedAt) === dayOf(now.toISOString());
      return `Draft of ${today ? clockOf(l.updatedAt) : momentOf(l.updatedAt)}`;
    }
    case "waiting":
      return l.dueAt ? goesWords(l.dueAt, l.zone, now) : "Waiting to go";
    case "sending":
      return "Being sent";
    case "refused":
      return "Not sent: refused";
    default:
      return "Not known whether it arrived";
  }
}

function goesWords(due: string, zone: string, now: Date): string {
  const at = new Date(due);
  if (at.getTime() - now.getTime() < 60_000) return "Goes now";
  const day = (d: Date) => new Intl.DateTimeFormat("en-CA", { timeZone: zone }).format(d);
  const clock = new Intl.DateTimeFormat(form, { timeZone: zone, hour: "2-digit", minute: "2-digit" }).format(at);
  const tomorrow = new Date(now.getTime() + 86_400_000);
  const date = new Intl.DateTimeFormat(form, { timeZone: zone, weekday: "short", day: "numeric", month: "short" });
  const when = day(at) === day(now) ? "today" : day(at) === day(tomorrow) ? "tomorrow" : date.format(at);
  const here = Intl.DateTimeFormat().resolvedOptions().timeZone;
  return `Goes ${when} ${clock}${zone === here || zone === "UTC" ? "" : ` in ${placeOf(zone)}`}`;
}

/** The letters of a record that have not gone: the first lines of its history. */
export function OpenLetters({ of, chosen, onOpen }: { of: Of; chosen: number; onOpen: (letter: number) => void }) {
  const letters = useOpenLetters(of).data ?? [];
  const look = (open: boolean) =>
    `flex w-full items-baseline gap-3 px-4 py-1 text-left sm:px-6 ${open ? "bg-main-soft shadow-[inset_3px_0_0] shadow-main" : "hover:bg-sheet"}`;
  if (letters.length === 0) return null;
  return (
    <ol aria-label="Not sent yet" className="border-b border-rule">
      {letters.map((l) => {
        const bad = l.state === "refused" || l.state === "unsure";
        const line = (
          <>
            <span className={`w-28 shrink-0 text-sm ${bad ? "font-semibold text-stop" : "text-advice"}`}>
              {openWords(l)}
            </span>
            <span className="min-w-0 flex-1 font-serif">
              {l.subject || "No subject yet"}
              {!of.person && <span className="block font-sans text-sm text-ink-soft">to {l.person || l.toEmail}</span>}
            </span>
          </>
        );
        return (
          <li key={l.id} className="border-t border-rule py-0.5">
            {l.state === "draft" ? (
              <Link to={`/letters/${l.id}`} className={look(false)}>
                {line}
              </Link>
            ) : (
              <button
                type="button"
                aria-current={l.id === chosen || undefined}
                onClick={() => onOpen(l.id)}
                className={look(l.id === chosen)}
              >
                {line}
              </button>
            )}
          </li>
        );
      })}
    </ol>
  );
}
