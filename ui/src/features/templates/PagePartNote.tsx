import type { EditorView } from "@codemirror/view";
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { FieldList } from "./FieldList";
import { TextForm } from "./TextForm";

type Props = {
  page: Schemas["PageOut"];
  part: number;
  fields: Schemas["FieldInfo"][];
  /** Something was typed that onText will tell of. */
  onTyping: () => void;
  onText: (part: number, text: string) => void;
  onClose: () => void;
};

/** The note beside a part of a page: its words, and where its link leads. */
export function PagePartNote({ page, part, fields, onTyping, onText, onClose }: Props) {
  const p = page.parts[part];
  if (!p) return null;
  const link = p.link >= 0 ? page.parts[p.link] : undefined;
  return (
    <div className="flex flex-col gap-2 text-sm">
      <Line
        key={`w${part}`}
        label={p.kind === "picture" ? "Alternative text" : "Words"}
        text={p.text}
        fields={fields}
        focus
        onTyping={onTyping}
        onText={(text) => onText(part, text)}
      />
      {link && (
        <Line
          key={`l${p.link}`}
          label="Link address"
          text={link.text}
          fields={fields}
          onTyping={onTyping}
          onText={(text) => onText(p.link, text)}
        />
      )}
      <button type="button" className="self-start text-main underline" onClick={onClose}>
        Done
      </button>
    </div>
  );
}

type LineProps = {
  label: string;
  text: string;
  fields: Schemas["FieldInfo"][];
  focus?: boolean;
  onTyping: () => void;
  onText: (text: string) => void;
};

function Line({ label, text, fields, focus = false, onTyping, onText }: LineProps) {
  const view = useRef<EditorView>(null);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const [picking, setPicking] = useState(false);
  const [first] = useState(text);
  const typed = useRef<string>(undefined);
  const tell = useRef(onText);
  tell.current = onText;
  const flush = useRef(() => {
    clearTimeout(timer.current);
    if (typed.current !== undefined) tell.current(typed.current);
    typed.current = undefined;
  });
  // What was typed is not lost when another part is chosen at once.
  useEffect(() => {
    const last = flush.current;
    return () => last();
  }, []);
  return (
    <div>
      <div className="flex items-baseline justify-between text-ink-soft">
        <span>{label}</span>
        <button type="button" className="text-main underline" onClick={() => setPicking(true)}>
          Field
        </button>
      </div>
      <TextForm
        label={label}
        hint=""
        oneLine
        text={first}
        fields={fields}
        notes={[]}
        className="border-b border-rule-strong text-base"
        onChange={(words) => {
          clearTimeout(timer.current);
          typed.current = words;
          onTyping();
          timer.current = setTimeout(flush.current, 250);
        }}
        onReady={(v) => {
          view.current = v;
          if (focus) requestAnimationFrame(() => v.focus());
        }}
        onFocus={() => {}}
      />
      {picking && (
        <FieldList
          onClose={() => setPicking(false)}
          onPick={(f) => {
            setPicking(false);
            const v = view.current;
            v?.dispatch(v.state.replaceSelection(`{{${f.path}}}`));
            requestAnimationFrame(() => v?.focus());
          }}
        />
      )}
    </div>
  );
}
