import { form as english } from "../../components/time";
import type { Letter } from "./useDraft";

/**
 * When a letter goes: now, in the recipient's next working morning, or at a local time; zone "" is the recipient's.
 * Remind is the day, such as 2026-12-01, on which an answer that did not come is spoken of.
 */
export type When = ({ how: "now" } | { how: "morning" } | { how: "at"; local: string; zone: string }) & {
  remind?: string;
  /** Remind also when a reply came. */
  remindAny?: boolean;
};

/** When a letter goes, as the server is told. */
export function sendTime(when: When): { morning?: true; local?: string; zone?: string } {
  if (when.how === "morning") return { morning: true };
  return when.how === "at" ? { local: when.local, zone: when.zone } : {};
}

/** Nine in the morning of a day, on the clock of this computer. */
export function morningHere(date: string): string {
  return new Date(`${date}T09:00`).toISOString();
}

/** Where a letter is filed. */
export function homeOf(l: Pick<Letter, "personId" | "dealId" | "internal">): string {
  return l.internal && l.dealId ? `/deals/${l.dealId}` : `/people/${l.personId}`;
}

export function sizeOf(bytes: number): string {
  return bytes < 1024 * 1024 ? `${Math.max(1, Math.round(bytes / 1024))} KB` : `${(bytes / 1024 / 1024).toFixed(1)} MB`;
}

const day = new Intl.DateTimeFormat(english, { weekday: "short", day: "numeric", month: "short" });

function inZone(at: string, zone: string): string {
  const form = { weekday: "short", day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" } as const;
  return new Intl.DateTimeFormat(english, { ...form, timeZone: zone }).format(new Date(at));
}

/** The place that a zone is named after. */
export function placeOf(zone: string): string {
  return (zone.split("/").at(-1) ?? zone).replaceAll("_", " ");
}

/** The next working morning as its recipient's clock shows it. */
export function morningOf({ morning, zone }: Letter["times"]): string {
  return `${inZone(morning, zone)} in ${placeOf(zone)}`;
}

/** When a letter goes, for the button: "" for now. */
export function whenWords(when: When, letter: Letter): string {
  if (when.how === "now") return "";
  if (when.how === "morning") return morningOf(letter.times);
  const [date = "", time = ""] = when.local.split("T");
  return `${day.format(new Date(`${date}T12:00`))}, ${time} in ${placeOf(when.zone || letter.times.zone)}`;
}

/** Who gets the letter, as the button says it. */
export function toWhom(letter: Letter): string {
  const copies = [
    letter.alsoTo.length > 0 && `To ${letter.alsoTo.length} more`,
    letter.cc.length > 0 && `Cc ${letter.cc.length}`,
    letter.bcc.length > 0 && `Bcc ${letter.bcc.length}`,
  ];
  return [letter.internal ? letter.toName : letter.person, ...copies.filter(Boolean)].join(", ");
}

/** Says in a few words what keeps the letter from going. */
export function missingWords(letter: Letter): string {
  const gaps = letter.gaps.map((g) => g.label);
  if (gaps.length > 0)
    return `Missing: ${gaps.slice(0, 2).join(", ")}${gaps.length > 2 ? ` and ${gaps.length - 2} more` : ""}`;
  const first = letter.stops[0];
  const known: Record<string, string> = {
    empty: first?.part === "subject" ? "Missing: a subject" : "Missing: the letter",
    optedout: "Do not contact",
    noaddress: "Missing: an address",
    kept: "Check: does it still fit?",
    recordnews: "Check: the record changed",
    fixed: "Fixed wording was changed",
    leftover: `Unfilled: ${first?.text}`,
    copy: "A copy can’t be sent",
    stranger: "Not a colleague",
    question: "A question from another letter",
    from: "Choose an address to write from",
    toolarge: "The attachments are too large",
  };
  return known[first?.code ?? ""] ?? "Can’t be sent yet";
}
