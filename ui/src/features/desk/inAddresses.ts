import type { Offer } from "../../editor/LinkAddress";
import type { Letter } from "./useDraft";

/** What of the letter's records can stand in an address: values, so that no other person's follow when it goes elsewhere. */
export function inAddresses(letter: Letter): Offer[] {
  return letter.facts.map((f) => ({
    name: `${f.label}: ${f.value.length > 30 ? `${f.value.slice(0, 30)}…` : f.value}`,
    put: /^(https?:\/\/|mailto:|tel:)/.test(f.value) ? f.value : encodeURIComponent(f.value),
  }));
}
