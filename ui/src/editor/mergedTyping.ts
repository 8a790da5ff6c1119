import { Extension } from "@tiptap/core";
import type { Mark, Node as PMNode, ResolvedPos } from "@tiptap/pm/model";
import { Plugin, PluginKey, TextSelection } from "@tiptap/pm/state";
import type { EditorView } from "@tiptap/pm/view";

// Words that came from a field are often corrected: from their end, in their middle, or replaced whole after a double
// click. What is typed then belongs to the value, so that the whole of it can be saved on the record; what is merely
// typed beside a value does not.

/** A stretch of words that came from one field. */
type Run = { from: number; to: number; text: string; mark: Mark };

const mergedIn = (node: PMNode | null | undefined) => node?.marks.find((m) => m.type.name === "merged");

/** The run that touches a place of a line, if there is one. */
function runAt($pos: ResolvedPos): Run | null {
  const { parent } = $pos;
  let found: Run | null = null;
  let at = $pos.start();
  let run: Run | null = null;
  parent.forEach((node) => {
    const mark = mergedIn(node);
    if (mark && run && mark.eq(run.mark) && run.to === at) {
      run.to += node.nodeSize;
      run.text += node.text ?? "";
    } else run = mark ? { from: at, to: at + node.nodeSize, text: node.text ?? "", mark } : null;
    if (run && run.from <= $pos.pos && $pos.pos <= run.to && (!found || found.to === $pos.pos)) found = run;
    at += node.nodeSize;
  });
  return found;
}

/** What each field was written as when the document was shown. */
function valuesIn(doc: PMNode): Map<string, string> {
  const values = new Map<string, string>();
  doc.descendants((node, pos) => {
    if (!mergedIn(node)) return;
    const run = runAt(doc.resolve(pos + 1));
    if (run) values.set(run.mark.attrs.path, run.text);
  });
  return values;
}

const wordSign = /^[\p{L}\p{N}\p{M}]/u;
const ends = /^[,.;:!?()[\]\n]/;

const key = new PluginKey<Map<string, string>>("mergedTyping");

export const MergedTyping = Extension.create({
  name: "mergedTyping",
  addProseMirrorPlugins: () => {
    /** Where a value is being typed anew, since all of it was replaced. */
    let anew: { pos: number; mark: Mark } | null = null;

    const put = (view: EditorView, from: number, to: number, text: string, mark: Mark) => {
      const marks = view.state.doc
        .resolve(from)
        .marks()
        .filter((m) => m.type !== mark.type);
      const words = view.state.schema.text(text, mark.addToSet(marks));
      const tr = view.state.tr.replaceWith(from, to, words);
      // What was typed comes from the page, whose cursor is ahead of the editor's.
      const end = from + text.length;
      view.dispatch(tr.setSelection(TextSelection.create(tr.doc, Math.min(end, tr.doc.content.size))).scrollIntoView());
      return end;
    };

    return [
      new Plugin<Map<string, string>>({
        key,
        state: {
          init: (_, state) => valuesIn(state.doc),
          apply: (tr, values) => (tr.getMeta("preventUpdate") === undefined ? values : valuesIn(tr.doc)),
        },
        props: {
          handleTextInput(view, from, to, text) {
            const { doc } = view.state;
            const going = anew;
            anew = null;
            if (from === to && going?.pos === from && !ends.test(text)) {
              anew = { pos: put(view, from, to, text, going.mark), mark: going.mark };
              return true;
            }
            const run = runAt(doc.resolve(from === to ? from : from + 1));
            if (!run || from < run.from || to > run.to) return false;
            const value = key.getState(view.state)?.get(run.mark.attrs.path) ?? run.text;
            if (from < to) {
              const end = put(view, from, to, text, run.mark);
              if (from === run.from && to === run.to) anew = { pos: end, mark: run.mark };
              return true;
            }
            const inside = from > run.from && from < run.to;
            if (inside && /^\s/.test(text) && !/\s/.test(value)) {
              // "Dr Ada": what was typed before the value, or behind it, is not part of it after all.
              const before = run.text.slice(0, from - run.from);
              const after = run.text.slice(from - run.from);
              const tr = view.state.tr;
              if (after === value) tr.removeMark(run.from, from, run.mark);
              else if (before === value) tr.removeMark(from, run.to, run.mark);
              else return false;
              tr.insertText(text, from).removeMark(from, from + text.length, run.mark);
              view.dispatch(tr.setSelection(TextSelection.create(tr.doc, from + text.length)));
              return true;
            }
            if (inside || !wordSign.test(text)) return false;
            put(view, from, to, text, run.mark);
            return true;
          },
          handleKeyDown(view, event) {
            if (event.key !== "Backspace" && event.key !== "Delete") {
              if (event.key.length > 1 && !["Shift", "Dead", "AltGraph"].includes(event.key)) anew = null;
              return false;
            }
            const { selection, doc } = view.state;
            const { from, to, empty } = selection;
            const run = runAt(doc.resolve(empty ? from : Math.min(from + 1, to)));
            const all = run && (empty ? run.to - run.from === 1 : from === run.from && to === run.to);
            anew = all ? { pos: run.from, mark: run.mark } : null;
            return false;
          },
          handleClick() {
            anew = null;
            return false;
          },
        },
      }),
    ];
  },
});
