import { type Editor, Extension, Mark, mergeAttributes, Node } from "@tiptap/core";
import Document from "@tiptap/extension-document";
import Paragraph from "@tiptap/extension-paragraph";
import Text from "@tiptap/extension-text";
import { UndoRedo } from "@tiptap/extensions";
import { Fragment, Slice } from "@tiptap/pm/model";
import { Plugin, PluginKey } from "@tiptap/pm/state";
import type { EditorView } from "@tiptap/pm/view";
import { FixedWords } from "./fixed";
import { KeepsPlace } from "./keepsPlace";
import { MergedTyping } from "./mergedTyping";

// The editor's JSON is the stored form of docs/format.md; nothing is translated. The attributes below are therefore
// exactly those of core/document.

const docAttributes = () => ({ version: { default: 1 }, body: { default: "plain" }, lang: { default: "" } });

/** A whole letter: its lines. */
const LetterDocument = Document.extend({ content: "paragraph+", addAttributes: docAttributes });

/** A subject: one line. */
const SubjectDocument = Document.extend({ content: "paragraph", addAttributes: docAttributes });

/** Words that came from a field. What is typed behind them is not part of them. */
export const Merged = Mark.create({
  name: "merged",
  inclusive: false,
  addAttributes() {
    return { path: { default: "" } };
  },
  parseHTML() {
    return [{ tag: "span[data-merged]", getAttrs: (el) => ({ path: el.getAttribute("data-merged") }) }];
  },
  renderHTML({ mark, HTMLAttributes }) {
    const { path, ...rest } = HTMLAttributes;
    return [
      "span",
      mergeAttributes(rest, { class: "merged", "data-merged": mark.attrs.path, title: mark.attrs.path }),
      0,
    ];
  },
});

/** The word beside which a value was left out, which the server asks whether the sentence still reads. It has no look. */
export const LeftOut = Mark.create({
  name: "leftOut",
  inclusive: false,
  excludes: "",
  addAttributes() {
    return { path: { default: "" }, place: { default: "" } };
  },
  parseHTML() {
    return [
      {
        tag: "span[data-left-out]",
        getAttrs: (el) => ({ path: el.getAttribute("data-left-out"), place: el.getAttribute("data-place") ?? "" }),
      },
    ];
  },
  renderHTML: ({ mark }) => ["span", { "data-left-out": mark.attrs.path, "data-place": mark.attrs.place }, 0],
});

/** Says of one block, or of all, that the sentence reads although a value was left out. */
export function readsRight(editor: Editor | null, block: number) {
  if (!editor) return;
  const tr = editor.state.tr;
  editor.state.doc.forEach((node, pos, index) => {
    if (index === block) tr.removeMark(pos, pos + node.nodeSize, editor.schema.marks.leftOut);
  });
  if (tr.docChanged) editor.view.dispatch(tr);
}

/** Settings of a gap that are kept and not shown on the page. */
const unseen = {
  kind: { default: "", rendered: false },
  hint: { default: "", rendered: false },
  choices: { default: [] as string[], rendered: false },
};

/** A value that is missing. It is filled in the margin, or replaced by typing over it. */
export const Gap = Node.create({
  name: "gap",
  group: "inline",
  inline: true,
  atom: true,
  selectable: true,
  addAttributes() {
    return { path: { default: "" }, label: { default: "" }, ...unseen };
  },
  parseHTML() {
    return [
      { tag: "span[data-gap]", getAttrs: (el) => ({ path: el.getAttribute("data-gap"), label: el.textContent }) },
    ];
  },
  renderHTML({ node }) {
    const label = `missing: ${node.attrs.label}`;
    return [
      "span",
      { class: node.attrs.kind ? "gap blank" : "gap", "data-gap": node.attrs.path, role: "img", "aria-label": label },
      node.attrs.label,
    ];
  },
  renderText: ({ node }) => `‹${node.attrs.label}›`,
});

/** Puts words in for the selection; every line becomes a paragraph, or in a subject a space. */
function insertWords(view: EditorView, text: string) {
  const { schema, selection, doc } = view.state;
  // Rules for what is pasted, such as that codes are fields, go by this.
  const tr = view.state.tr.setMeta("uiEvent", "paste").setMeta("paste", true);
  const paragraph = schema.nodes.paragraph;
  const oneLine = doc.type.spec.content === "paragraph";
  const lines = oneLine ? [text.replace(/\s*\n\s*/g, " ")] : text.split("\n");
  if (lines.length === 1 || !paragraph) {
    view.dispatch(tr.insertText(lines.join(" "), selection.from, selection.to).scrollIntoView());
    return;
  }
  const nodes = lines.map((line) => paragraph.create(null, line ? schema.text(line) : null));
  view.dispatch(tr.replaceSelection(new Slice(Fragment.from(nodes), 1, 1)).scrollIntoView());
}

/** Only words are pasted; the looks of other programs stay there. */
export const PlainPaste = Extension.create({
  name: "plainPaste",
  addProseMirrorPlugins: () => [
    new Plugin({
      key: new PluginKey("plainPaste"),
      props: {
        handlePaste(view, event) {
          const text = event.clipboardData?.getData("text/plain").replace(/\r\n?/g, "\n");
          if (text) insertWords(view, text);
          return true;
        },
      },
    }),
  ],
});

const common = [Paragraph, Text, FixedWords, Merged, LeftOut, MergedTyping, Gap, UndoRedo, PlainPaste, KeepsPlace];
export const letterExtensions = [LetterDocument, ...common];
export const subjectExtensions = [SubjectDocument, ...common];
