import type { EditorView } from "@codemirror/view";
import type { Editor } from "@tiptap/react";
import type { RefObject } from "react";
import type { Schemas } from "../../api/client";
import type { MarginNote } from "../../components/Margin";
import { selectedNote } from "../../editor/SelectedNote";
import type { Selected } from "../../editor/selected";
import { ReachNote } from "./ReachNote";

type Note = Schemas["Note"];

/** The block of a formatted body that a note names, such as content[3].content[0]. */
function blockOf(editor: Editor, where: string): HTMLElement | null {
  let pos = 0;
  let node = editor.state.doc;
  for (const step of where.split(".")) {
    const index = Number(/\[(\d+)\]/.exec(step)?.[1]);
    if (node !== editor.state.doc) pos += 1;
    if (index >= node.childCount) return null;
    for (let i = 0; i < index; i++) pos += node.child(i).nodeSize;
    node = node.child(index);
  }
  const dom = editor.view.nodeDOM(pos);
  return dom instanceof HTMLElement ? dom : null;
}

const pathIn = (code: string) => /\{\{[#^?]?\s*([\w.]+)/.exec(code)?.[1] ?? "";

/** The chip that a note is about, or its block. */
function placeOf(editor: Editor, n: Note): HTMLElement | null {
  const block = blockOf(editor, n.where ?? "");
  if (n.code === "address") {
    const links = [...(block?.querySelectorAll<HTMLElement>("a") ?? [])];
    return links.find((a) => a.getAttribute("href") === n.text) ?? block;
  }
  const path = CSS.escape(pathIn(n.text));
  return block?.querySelector<HTMLElement>(`[data-field="${path}"], [data-blank="${path}"]`) ?? block;
}

/** The chip of a subject that a note is about. */
function chipIn(editor: Editor, n: Note): HTMLElement | null {
  const path = CSS.escape(pathIn(n.text));
  return editor.view.dom.querySelector<HTMLElement>(`[data-field="${path}"], [data-blank="${path}"]`);
}

/** Puts a field or a blank where words stand that a note is about: a mark of an old text, a code that was pasted. */
function fixWords(editor: Editor, n: Note, words: string) {
  const { doc, schema } = editor.state;
  const block = n.part === "subject" ? null : blockOf(editor, n.where ?? "");
  let done = false;
  doc.descendants((node, pos) => {
    if (done || !node.isTextblock) return !done;
    if (block && !block.contains(editor.view.nodeDOM(pos))) return true;
    node.forEach((child, offset) => {
      const at = child.text?.indexOf(n.text) ?? -1;
      if (done || at < 0) return;
      done = true;
      const from = pos + 1 + offset + at;
      const blank = /\{\{\?(.+?)\}\}/.exec(words)?.[1];
      const chip = blank
        ? schema.nodes.blank?.create({ name: blank }, null, child.marks)
        : schema.nodes.field?.create({ path: pathIn(words) }, null, child.marks);
      if (chip) editor.view.dispatch(editor.state.tr.replaceWith(from, from + n.text.length, chip));
    });
    return false;
  });
  if (done) editor.commands.focus();
}

/** Puts another field into the chip that a note is about, or a chip where words stand. */
export function fixChip(editor: Editor, n: Note, words: string) {
  const wrong = pathIn(n.text);
  const dom = n.part === "subject" ? chipIn(editor, n) : placeOf(editor, n);
  if (n.code === "leftover" || !dom?.dataset.field) return fixWords(editor, n, words);
  const pos = editor.view.posAtDOM(dom, 0);
  for (const at of [pos, pos - 1]) {
    const node = at >= 0 ? editor.state.doc.nodeAt(at) : null;
    if (node?.type.name === "field" && node.attrs.path === wrong) {
      editor.view.dispatch(editor.state.tr.setNodeAttribute(at, "path", pathIn(words)));
      editor.commands.focus();
      return;
    }
  }
}

/** A field by its label, and by its record when others are called the same. */
function named(fields: Schemas["FieldInfo"][], path: string): string {
  const field = fields.find((f) => f.path === path);
  if (!field) return path;
  const alone = fields.filter((f) => f.label === field.label).length === 1;
  return alone ? field.label : `${field.label} (${field.record.replace("deal.main_contact", "main contact")})`;
}

/** What a fix puts in, by its name. */
function chipName(fields: Schemas["FieldInfo"][], words: string): string {
  const blank = /\{\{\?(.+?)\}\}/.exec(words)?.[1];
  return blank ? `Blank: ${blank.replaceAll("_", " ")}` : named(fields, pathIn(words));
}

type Input = {
  notes: Note[];
  views: RefObject<{ subject?: EditorView; body?: EditorView }>;
  editor: Editor | null;
  subject: Editor | null;
  /** Where the cursor was last, of the editors with chips. */
  chips: Editor | null;
  fix: (n: Note, words: string) => void;
  fits: string[];
  reach: Schemas["Reach"] | undefined;
  selected: Selected[];
  fields: Schemas["FieldInfo"][];
};

export function toMargin({
  notes,
  views,
  editor,
  subject,
  chips,
  fix,
  fits,
  reach,
  selected,
  fields,
}: Input): MarginNote[] {
  const anchorOf = (n: Note) => (): DOMRect | null => {
    if (n.part === "text") return null;
    if (n.part === "subject" && subject) {
      const dom = chipIn(subject, n) ?? subject.view.dom;
      return dom.offsetParent ? dom.getBoundingClientRect() : null;
    }
    if (n.where && editor) {
      const dom = placeOf(editor, n);
      return dom?.offsetParent ? dom.getBoundingClientRect() : null;
    }
    const view = n.part === "subject" ? views.current.subject : views.current.body;
    if (!view?.dom.offsetParent || n.from > view.state.doc.length) return null;
    const at = view.coordsAtPos(Math.min(n.to, view.state.doc.length), -1) ?? view.coordsAtPos(n.from);
    return at ? new DOMRect(at.left, at.top, 0, at.bottom - at.top) : null;
  };
  // In a formatted body a fix puts another field into a chip; other places are mended there.
  const fixes = (n: Note) =>
    n.where || (n.part === "subject" && subject)
      ? n.fixes.filter(() => n.code === "leftover" || (n.code === "unknown" && n.text.startsWith("{{")))
      : n.fixes;
  const out: MarginNote[] = [
    { key: "fits", tone: "quiet", anchor: () => null, content: <ReachNote fits={fits} reach={reach} /> },
  ];
  if (chips && selected.length > 0) out.push(selectedNote(chips, selected, fields));
  return [
    ...out,
    ...notes.map(
      (n, i): MarginNote => ({
        key: `${n.code} ${n.part} ${i}`,
        tone: n.severity === "stops" ? "stop" : "advice",
        anchor: anchorOf(n),
        content: (
          <div className="text-sm">
            <p className="break-words">{n.message}</p>
            {fixes(n).map((words) => (
              <button
                key={words}
                type="button"
                onClick={() => fix(n, words)}
                className="mt-1 mr-2 rounded-sm border border-rule-strong px-1.5 text-main hover:border-main"
              >
                {n.where || (n.part === "subject" && subject) ? chipName(fields, words) : words}
              </button>
            ))}
          </div>
        ),
      }),
    ),
  ];
}
