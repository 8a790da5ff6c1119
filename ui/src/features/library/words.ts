/** Says for which kinds of record a template can be used. */
export function fitsWords(fits: string[]): string {
  if (fits.length === 0) return "This template doesn’t fit any kind of record.";
  if (fits.length === 3) return "For leads, contacts and deals.";
  if (fits[0] === "deal") return "For deals and their contacts.";
  if (fits[0] === "lead") return "For leads.";
  return "For contacts.";
}
