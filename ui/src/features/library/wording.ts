import type { Schemas } from "../../api/client";

type Template = Schemas["TemplateOut"];

/** What a writer sets on a template, as it stands on the screen. */
export type Wording = Pick<
  Template,
  | "name"
  | "whenToUse"
  | "tags"
  | "subject"
  | "subjectDoc"
  | "body"
  | "language"
  | "kind"
  | "doc"
  | "textPart"
  | "textOf"
  | "stationery"
  | "mayNot"
  | "untracked"
  | "documents"
>;

export function wordingOf(t: Template): Wording {
  return {
    name: t.name,
    whenToUse: t.whenToUse,
    tags: t.tags,
    subject: t.subject,
    subjectDoc: t.subjectDoc,
    body: t.body,
    language: t.language,
    kind: t.kind,
    doc: t.doc,
    textPart: t.textPart,
    textOf: t.textOf,
    stationery: t.stationery,
    mayNot: t.mayNot,
    untracked: t.untracked,
    documents: t.documents,
  };
}

/** Whether two are the same; documents by what they say. */
export function same(a: Wording, b: Wording): boolean {
  return JSON.stringify(comparable(a)) === JSON.stringify(comparable(b));
}

function comparable(w: Wording) {
  const { body, doc, subject, subjectDoc, textOf, ...rest } = w;
  const words = doc ? { doc: tidied(doc), subject: tidied(subjectDoc) } : { body, subject };
  return { ...rest, ...words, textOf: rest.textPart === undefined ? "" : textOf };
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
export function typed(w: Wording, id = 0): Schemas["Input"] {
  const { subject, subjectDoc, language, textPart, textOf, stationery, kind } = w;
  const rest = {
    language,
    stationery,
    ...(textPart !== undefined ? { textPart, textOf } : {}),
    ...(id ? { templateId: id } : {}),
  };
  if (w.doc) return { subject: "", subjectDoc, body: "", kind: "formatted", doc: w.doc, ...rest };
  return { subject, body: w.body, kind, ...rest };
}

/** What is stored. */
export function stored(w: Wording, id = 0): Omit<Schemas["TemplateIn"], "state"> {
  const { name, whenToUse, tags, mayNot, untracked, documents } = w;
  return { ...typed(w, id), name, whenToUse, tags, mayNot, untracked, documents };
}
