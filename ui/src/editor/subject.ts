import { type Extensions, Node } from "@tiptap/core";
import Paragraph from "@tiptap/extension-paragraph";
import Text from "@tiptap/extension-text";
import { UndoRedo } from "@tiptap/extensions";
import { chips, Field, type Labels } from "./chips";
import { KeepsPlace } from "./keepsPlace";
import { PlainPaste } from "./schema";

/** A subject is one line of words and chips. */
const SubjectDocument = Node.create({
  name: "doc",
  topNode: true,
  content: "paragraph",
  addAttributes: () => ({
    version: { default: 1 },
    body: { default: "plain" },
    lang: { default: "", rendered: false },
  }),
});

/** The subject of a formatted template. */
export function subjectTemplate(labels: Labels): Extensions {
  return [SubjectDocument, Paragraph, Text, Field.configure(labels), ...chips, UndoRedo, PlainPaste, KeepsPlace];
}
