import { autocompletion, type CompletionContext } from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap } from "@codemirror/commands";
import { EditorState, RangeSetBuilder, StateEffect, StateField } from "@codemirror/state";
import {
  Decoration,
  type DecorationSet,
  EditorView,
  keymap,
  MatchDecorator,
  placeholder,
  ViewPlugin,
  type ViewUpdate,
} from "@codemirror/view";
import { useEffect, useRef } from "react";
import type { Schemas } from "../../api/client";

type Field = Schemas["FieldInfo"];
type Note = Schemas["Note"];

const setNotes = StateEffect.define<Note[]>();

/** The places of red notes, underlined; they move with the text until the next check. */
const noted = StateField.define<DecorationSet>({
  create: () => Decoration.none,
  update(marks, tr) {
    let next = marks.map(tr.changes);
    for (const e of tr.effects) {
      if (!e.is(setNotes)) continue;
      const build = new RangeSetBuilder<Decoration>();
      const end = tr.state.doc.length;
      for (const n of [...e.value].sort((a, b) => a.from - b.from)) {
        const to = Math.min(n.to, end);
        if (n.from < to) build.add(n.from, to, Decoration.mark({ class: "cm-stops" }));
      }
      next = build.finish();
    }
    return next;
  },
  provide: (f) => EditorView.decorations.from(f),
});

const field = new MatchDecorator({ regexp: /\{\{[^{}\n]*\}\}/g, decoration: Decoration.mark({ class: "cm-field" }) });
const fields = ViewPlugin.fromClass(
  class {
    marks: DecorationSet;
    constructor(view: EditorView) {
      this.marks = field.createDeco(view);
    }
    update(u: ViewUpdate) {
      this.marks = field.updateDeco(u, this.marks);
    }
  },
  { decorations: (p) => p.marks },
);

/** Offers the fields behind one or two opening braces. */
function offer(list: () => Field[]) {
  return (context: CompletionContext) => {
    const before = context.matchBefore(/\{{1,2}\s*[\w. ]*$/);
    if (!before) return null;
    const closed = context.state.sliceDoc(context.pos, context.pos + 2) === "}}";
    return {
      from: before.from + (/^\{+\s*/.exec(before.text)?.[0].length ?? 0),
      options: list().map((f) => ({
        label: f.path,
        displayLabel: f.label,
        detail: f.path,
        apply: (view: EditorView, _: unknown, from: number, to: number) => {
          const start = view.state.sliceDoc(0, from).search(/\{+\s*$/);
          const insert = `{{${f.path}}}`;
          view.dispatch({
            changes: { from: start < 0 ? from : start, to: closed ? to + 2 : to, insert },
            selection: { anchor: (start < 0 ? from : start) + insert.length },
          });
        },
      })),
      validFor: /^[\w. ]*$/,
    };
  };
}

type Props = {
  label: string;
  text: string;
  hint: string;
  oneLine?: boolean;
  readOnly?: boolean;
  className?: string;
  fields: Field[];
  notes: Note[];
  onChange: (text: string) => void;
  onReady: (view: EditorView) => void;
  onFocus: (view: EditorView) => void;
};

/** Writes the text form of a template: fields are tinted, mistakes underlined, { offers the fields. */
export function TextForm({ label, text, hint, oneLine = false, readOnly = false, className = "", ...rest }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(null);
  const latest = useRef(rest);
  latest.current = rest;
  const first = useRef(text);

  useEffect(() => {
    if (!box.current) return;
    const made = new EditorView({
      parent: box.current,
      state: EditorState.create({
        doc: first.current,
        extensions: [
          history(),
          keymap.of([...defaultKeymap, ...historyKeymap]),
          EditorView.lineWrapping,
          EditorView.contentAttributes.of({
            "aria-label": label,
            "aria-multiline": String(!oneLine),
            spellcheck: "true",
          }),
          EditorState.readOnly.of(readOnly),
          EditorState.transactionFilter.of((tr) => (oneLine && tr.newDoc.lines > 1 ? [] : tr)),
          autocompletion({ override: [offer(() => latest.current.fields)], icons: false, activateOnTyping: true }),
          placeholder(hint),
          fields,
          noted,
          EditorView.updateListener.of((u) => {
            if (u.docChanged) latest.current.onChange(u.state.doc.toString());
            if (u.focusChanged && u.view.hasFocus) latest.current.onFocus(u.view);
          }),
        ],
      }),
    });
    view.current = made;
    latest.current.onReady(made);
    return () => made.destroy();
  }, [label, oneLine, readOnly, hint]);

  useEffect(() => {
    const v = view.current;
    if (v && v.state.doc.toString() !== text)
      v.dispatch({ changes: { from: 0, to: v.state.doc.length, insert: text } });
  }, [text]);

  useEffect(() => {
    view.current?.dispatch({ effects: setNotes.of(rest.notes) });
  }, [rest.notes]);

  return <div ref={box} className={className} />;
}
