/** Says for which kinds of record a template can be used. */
export function fitsWords(fits: string[]): string {
  if (fits.length === 0) return "fits no record";
  if (fits.length === 3) return "for leads, contacts and deals";
  if (fits[0] === "deal") return "for deals and their contacts";
  if (fits[0] === "lead") return "for leads";
  return "for contacts";
}
