import { clockNow } from "../app/clock";

const day = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", year: "numeric" });
const dayLong = new Intl.DateTimeFormat("en-GB", { weekday: "long", day: "numeric", month: "long", year: "numeric" });
const clock = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" });

export const dayOf = (iso: string) => day.format(new Date(iso));
export const longDayOf = (iso: string) => dayLong.format(new Date(iso));
export const clockOf = (iso: string) => clock.format(new Date(iso));
export const momentOf = (iso: string) => `${dayOf(iso)}, ${clockOf(iso)}`;

/** The date some days from now, on the clock of this computer. */
export function inDays(days: number): string {
  const d = clockNow();
  d.setDate(d.getDate() + days);
  return `${d.getFullYear()}-${String(d.getMonth() + 1).padStart(2, "0")}-${String(d.getDate()).padStart(2, "0")}`;
}
