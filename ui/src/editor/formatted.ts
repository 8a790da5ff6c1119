import { type Extensions, type JSONContent, Node } from "@tiptap/core";
import Text from "@tiptap/extension-text";
import { UndoRedo } from "@tiptap/extensions";
import { atTop, blocks } from "./blocks";
import { chips, Field, type Labels, OnlyWhen } from "./chips";
import { FixedWords } from "./fixed";
import { KeepsPlace } from "./keepsPlace";
import { marks } from "./marks";
import { MergedTyping } from "./mergedTyping";
import { Gap, LeftOut, Merged } from "./schema";
import { TypesBehind } from "./typesBehind";

const text = { default: "", rendered: false };

/** A formatted body: its blocks, and how the sheet looks. */
const FormattedDocument = Node.create({
  name: "doc",
  topNode: true,
  addAttributes: () => ({
    version: { default: 1 },
    body: { default: "formatted" },
    lang: text,
    font: text,
    size: { default: 0, rendered: false },
    color: text,
    background: text,
    align: text,
  }),
});

const common = (template: boolean): Extensions => [
  FormattedDocument.extend({ content: atTop(template) }),
  Text,
  ...blocks(template),
  ...marks,
  UndoRedo,
  KeepsPlace,
];

/** The body of a formatted letter. */
export const formattedLetter: Extensions = [...common(false), FixedWords, Merged, LeftOut, MergedTyping, Gap];

/** The body of a formatted template. */
export function formattedTemplate(labels: Labels): Extensions {
  return [...common(true), Field.configure(labels), OnlyWhen.configure(labels), ...chips, TypesBehind];
}

/** The document without the settings that are not set. */
export function settled<T>(doc: JSONContent): T {
  return JSON.parse(JSON.stringify(doc, (_, v) => (v === null ? undefined : v))) as T;
}
