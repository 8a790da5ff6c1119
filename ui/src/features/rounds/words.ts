import type { Schemas } from "../../api/client";
import { figures, plural } from "../../components/plural";

export type Round = Schemas["RoundOut"];
export type Member = Schemas["MemberOut"];
export type Step = "who" | "template" | "check" | "send";

const states: Record<Round["state"], string> = {
  open: "Not sent yet",
  sending: "Sending",
  paused: "Paused",
  done: "Done",
  stopped: "Stopped",
};

/** How a round stands. */
export const stateWords = (r: { state: Round["state"]; groups: { sent: number } }): string =>
  r.state === "open" && r.groups.sent > 0 ? "Partly sent" : states[r.state];

type Counts = Pick<
  Schemas["RoundGroups"],
  "ready" | "gap" | "aside" | "skipped" | "waiting" | "sent" | "refused" | "unsure" | "left" | "unknown"
>;

/** Where people of a round stand, in the order of the eye: the key of the list, the word, and whether it is settled. */
export const groups: readonly (readonly [keyof Counts, string])[] = [
  ["ready", "Ready"],
  ["gap", "With a gap"],
  ["skipped", "Skipped"],
  ["aside", "Set aside"],
  ["waiting", "Waiting"],
  ["sent", "Sent"],
  ["refused", "Refused"],
  ["unsure", "Unsure"],
  ["left", "Taken out"],
  ["unknown", "Not checked"],
];

export const outcomes: readonly (readonly [string, string])[] = [
  ["replied", "Replied"],
  ["clicked", "Clicked"],
  ["opened", "Opened"],
  ["bounced", "Came back"],
  ["opted out", "Unsubscribed"],
  ["away", "Out of office"],
];

/** The counts that are not nothing: "18 ready, 3 with a gap". */
export function countWords(c: Counts): string {
  return groups
    .filter(([key]) => c[key] > 0)
    .map(([key, name]) => `${figures.format(c[key])} ${name.toLowerCase()}`)
    .join(", ");
}

/** What a step says of itself, and whether something is missing there. */
export function stepWords(r: Round, step: Step): { words: string; missing: boolean } {
  const { groups: g } = r;
  const over = r.state === "done" || r.state === "stopped";
  switch (step) {
    case "who":
      return { words: plural(r.total, "person", "people"), missing: r.unmailable };
    case "template":
      return { words: r.template || "choose one", missing: !r.template || r.templateNews !== "" };
    case "check": {
      if (!r.template) return { words: "after the template", missing: false };
      if (r.working && g.unknown > 0)
        return { words: `${figures.format(r.total - g.unknown)} checked`, missing: false };
      if (over) return { words: "done", missing: false };
      const open = r.asks.filter((a) => !a.optional && !a.value).length;
      if (g.gap > 0) return { words: plural(g.gap, "gap"), missing: true };
      return {
        words:
          g.ready > 0 ? `${figures.format(g.proofread)} of ${figures.format(g.ready)} marked good` : "nobody is ready",
        missing: open > 0 && g.ready === 0,
      };
    }
    case "send":
      return { words: over || r.beganAt ? `${figures.format(g.sent)} sent` : stateWords(r), missing: false };
  }
}
