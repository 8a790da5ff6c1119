import type { Choice } from "./Picker";

/** Instead of a template: a letter from nothing. */
export const blank: Choice = {
  id: 0,
  name: "Empty letter",
  whenToUse: "Start with a blank page",
  fits: true,
  reason: "",
  subject: "",
  preview: "",
  gaps: 0,
  language: "",
  foreign: false,
  others: [],
};
