import { clockNow } from "../app/clock";

/** How dates are written: as the user's own English does, else as in Britain. */
export const form = /^en\b/.test(navigator.language) ? navigator.language : "en-GB";

const day = new Intl.DateTimeFormat(form, { day: "numeric", month: "short", year: "numeric" });
const dayLong = new Intl.DateTimeFormat(form, { weekday: "long", day: "numeric", month: "long", year: "numeric" });
const dayDue = new Intl.DateTimeFormat(form, { weekday: "short", day: "numeric", month: "short", year: "numeric" });
const clock = new Intl.DateTimeFormat(form, { hour: "2-digit", minute: "2-digit" });

export const dayOf = (iso: string) => day.format(new Date(iso));
export const longDayOf = (iso: string) => dayLong.format(new Date(iso));
export const clockOf = (iso: string) => clock.format(new Date(iso));
/** A moment that is to come, with its day of the week. */
export const dueOf = (iso: string) => `${dayDue.format(new Date(iso))}, ${clockOf(iso)}`;
/** The day of a date input in words, "" while it is no date. */
export function inWords(local: string): string {
  const at = new Date(local.length === 10 ? `${local}T12:00` : local);
  return Number.isNaN(at.getTime()) ? "" : dayLong.format(at);
}
export const momentOf = (iso: string) => `${dayOf(iso)}, ${clockOf(iso)}`;

/** The date some days from now, on the clock of this computer. */
export function inDays(days: number): string {
  const d = clockNow();
  d.setDate(d.getDate() + days);
  return `${d.getFullYear()}-${String(d.getMonth() + 1).padStart(2, "0")}-${String(d.getDate()).padStart(2, "0")}`;
}
