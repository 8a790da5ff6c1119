import type { Schemas } from "../../api/client";

type Template = Schemas["TemplateOut"];

/** What a writer sets on a template, as it stands on the screen. */
export type Wording = Pick<Template, "name" | "whenToUse" | "tags" | "subject" | "body" | "language" | "kind" | "doc">;

export function wordingOf(t: Template): Wording {
  const { name, whenToUse, tags, subject, body, language, kind, doc } = t;
  return { name, whenToUse, tags, subject, body, language, kind, doc };
}

/** Whether two are the same; documents by what they say. */
export function same(a: Wording, b: Wording): boolean {
  return JSON.stringify(comparable(a)) === JSON.stringify(comparable(b));
}

function comparable(w: Wording) {
  return { ...w, body: w.doc ? "" : w.body, doc: w.doc ? tidied(w.doc) : undefined };
}

/** A document without the settings that are empty, which the server leaves out, its keys in order. */
function tidied(doc: object): unknown {
  return JSON.parse(
    JSON.stringify(doc, (key, v) => {
      if (v === 1 && ["colspan", "rowspan", "start"].includes(key)) return undefined;
      if (v === null || v === "" || v === 0 || v === false) return undefined;
      if (Array.isArray(v)) return v.length > 0 ? v : undefined;
      if (typeof v !== "object") return v;
      const rest = Object.entries(v).filter(([, x]) => x !== null && x !== "" && x !== 0 && x !== false);
      return rest.length > 0 ? Object.fromEntries(rest.sort(([x], [y]) => (x < y ? -1 : 1))) : undefined;
    }),
  );
}

/** The wording as the server checks it and tries it on. */
export function typed(w: Wording): Schemas["Typed"] {
  const { subject, language } = w;
  if (w.doc) return { subject, body: "", kind: "formatted", language, doc: w.doc };
  return { subject, body: w.body, kind: w.kind === "html" ? "html" : "plain", language };
}

/** What is stored. */
export function stored(w: Wording): Omit<Schemas["TemplateIn"], "state"> {
  const { name, whenToUse, tags, subject, language, body } = w;
  if (w.doc) return { name, whenToUse, tags, subject, language, body: "", kind: "formatted", doc: w.doc };
  return { name, whenToUse, tags, subject, language, body, kind: "plain" };
}
