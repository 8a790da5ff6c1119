import type { Schemas } from "../../api/client";
import { plural } from "../../components/plural";
import { dueOf, form } from "../../components/time";

export type Plan = Schemas["PlanOut"];
export type Timing = Schemas["Timing"];
export type Run = Schemas["RunOut"];
export type Ruler = Schemas["RulerOut"];

/** A step as it is being written. */
export type Step = {
  /** Which one it is in this window. */
  id: string;
  key: number;
  kind: "letter" | "task" | "text";
  when: Timing;
  words: string;
  same: boolean;
  templateId?: number;
  template: string;
  news: string;
  ownWording: boolean;
  subject: string;
  task: "" | "call" | "visit" | "note";
};

export const kindNames = { letter: "Letter", task: "Task", text: "Text message", skipped: "Skipped" } as const;
export const taskNames = { "": "Task", call: "Call", visit: "Visit", note: "Note", text: "Text message" } as const;

/** What a step is, in a word. */
export const whatOf = (s: { kind: string; task: string }) =>
  s.kind === "task" ? taskNames[s.task as keyof typeof taskNames] : kindNames[s.kind as keyof typeof kindNames];

/** When a step comes, as one says it. */
export function timingWords(t: Timing, first: boolean): string {
  if (t.at === "atonce") return first ? "Right after the start" : "Right after the step before";
  const unit = t.working ? "working day" : "day";
  const days = t.days === 0 ? (first ? "On the day of the start" : "On the same day") : `${plural(t.days, unit)} later`;
  return `${days}, ${t.at ? `at ${t.at}` : "in the morning"}`;
}

/** What a step is called in the list. */
export function nameOf(s: Step, labels: Map<string, string>): string {
  if (s.kind === "letter")
    return s.ownWording ? s.subject || "Letter without a subject" : s.template || "No template yet";
  return (
    readable(s.words.trim().split("\n")[0] ?? "", labels) ||
    (s.kind === "text" ? "No words yet" : "What is to be done?")
  );
}

/** Words with their fields as what they are called. */
export const readable = (words: string, labels: Map<string, string>) =>
  words.replace(/\{\{\s*([\w.]+)[^}]*\}\}/g, (_, path: string) => labels.get(path) ?? path);

export const stateNames = {
  going: "Going",
  waiting: "Waiting for you",
  paused: "Paused",
  finished: "Finished",
  stopped: "Stopped",
} as const;

/** Where somebody on a plan stands, in a line. */
export function standing(r: Run): string {
  if (r.state === "going" && r.nextAt) return `${r.next}: ${dueOf(r.nextAt)}`;
  if (r.state === "waiting") return r.reason || "Waiting for you";
  if (r.state === "stopped") return `Stopped: ${r.reason}`;
  return stateNames[r.state];
}

const local = new Intl.DateTimeFormat(form, { weekday: "short", day: "numeric", month: "short", timeZone: "UTC" });
const localYear = new Intl.DateTimeFormat(form, {
  weekday: "short",
  day: "numeric",
  month: "short",
  year: "numeric",
  timeZone: "UTC",
});

/** A day on somebody's own clock, such as 2026-12-03T09:00. The year stands there when it is another one. */
export function localDay(at: string, today: string): string {
  return (at.slice(0, 4) === today.slice(0, 4) ? local : localYear).format(new Date(`${at.slice(0, 10)}T00:00Z`));
}

export const stepIn = (s: Step): Schemas["PlanStepIn"] => ({
  ...(s.key && { key: s.key }),
  kind: s.kind,
  when: s.when,
  words: s.words,
  same: s.same,
  ...(s.templateId && { templateId: s.templateId }),
  task: s.task,
});
