import type { EditorView } from "@codemirror/view";
import type { Editor } from "@tiptap/react";
import { useMemo, useRef } from "react";
import type { Schemas } from "../../api/client";
import { FormattedEditor } from "../../editor/FormattedEditor";
import { subjectTemplate } from "../../editor/subject";
import { TextForm } from "./TextForm";
import type { TemplateDraft } from "./useTemplate";

type Props = {
  draft: TemplateDraft;
  fields: Schemas["FieldInfo"][];
  onText: (view: EditorView) => void;
  onTextFocus: (view: EditorView) => void;
  onChips: (editor: Editor) => void;
  onChipsFocus: (editor: Editor) => void;
  onBrace: () => void;
  onEnter: () => void;
};

const looks = "mb-5 border-b border-rule pb-2 text-[1.35rem] font-semibold";

/** The subject: with chips over a formatted letter, in the text form over others. */
export function SubjectLine({ draft, fields, onText, onTextFocus, onChips, onChipsFocus, onBrace, onEnter }: Props) {
  const { text, set, notes, stored, sheetKey } = draft;
  const known = useRef(fields);
  known.current = fields;
  const extensions = useMemo(
    () => subjectTemplate({ labelOf: (path) => known.current.find((f) => f.path === path)?.name }),
    [],
  );
  const editor = useRef<Editor>(null);
  const stops = useMemo(() => notes.filter((n) => n.part === "subject" && n.severity === "stops"), [notes]);
  if (text.doc) {
    if (fields.length === 0) return null;
    return (
      <FormattedEditor
        key={sheetKey}
        label="Subject"
        extensions={extensions}
        first={text.subjectDoc}
        multiline={false}
        readOnly={!stored.mayEdit}
        className={`[&_.ProseMirror]:min-h-0! [&_p]:mb-0! ${looks}`}
        onReady={(e) => {
          editor.current = e;
          onChips(e);
        }}
        onChange={(subjectDoc) => set({ subjectDoc })}
        onFocus={() => editor.current && onChipsFocus(editor.current)}
        onBrace={onBrace}
        onEnter={onEnter}
      />
    );
  }
  return (
    <TextForm
      label="Subject"
      hint="Subject"
      oneLine
      readOnly={!stored.mayEdit}
      text={text.subject}
      fields={fields}
      notes={stops}
      className={looks}
      onChange={(subject) => set({ subject })}
      onReady={onText}
      onFocus={onTextFocus}
    />
  );
}
