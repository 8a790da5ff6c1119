import type { Editor } from "@tiptap/react";
import { useMemo, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { FormattedEditor } from "../../editor/FormattedEditor";
import { formattedTemplate } from "../../editor/formatted";
import { SelectedNote } from "../../editor/SelectedNote";
import { useSelected } from "../../editor/selected";
import { Toolbar } from "../../editor/Toolbar";
import { usePictures } from "../../editor/usePictures";
import { InsertList } from "./InsertList";

type Doc = Schemas["Document"];
type Props = {
  label?: string;
  /** There is no margin: what the cursor is on has its settings below. */
  settings?: boolean;
  first: Doc;
  fields: Schemas["FieldInfo"][];
  readOnly: boolean;
  onReady: (editor: Editor) => void;
  onChange: (doc: Doc) => void;
  onFocus: () => void;
  /** Asks for a field: behind a brace that was typed, or by its button. */
  onBrace: (typed: boolean) => void;
};

type Asked = { at: number };

/** The body of a formatted template: what can be done above it, the words below. */
export function FormattedBody({
  label = "Letter",
  settings = false,
  first,
  fields,
  readOnly,
  onReady,
  onChange,
  onFocus,
  onBrace,
}: Props) {
  const known = useRef(fields);
  known.current = fields;
  const [editor, setEditor] = useState<Editor | null>(null);
  const extensions = useMemo(
    () => formattedTemplate({ labelOf: (path) => known.current.find((f) => f.path === path)?.name }),
    [],
  );
  const pictures = usePictures(editor);
  const selected = useSelected(settings ? editor : null);
  const [inserting, setInserting] = useState<Asked | null>(null);
  const insert = () => setInserting({ at: editor?.state.selection.to ?? 0 });
  // Chips carry the labels of the fields: they are made when these are known.
  if (fields.length === 0) return null;
  return (
    <>
      {editor && !readOnly && (
        <div className="sticky top-0 z-10 -mx-3 mb-4 border-b border-rule bg-sheet px-3 pb-1">
          <Toolbar editor={editor} onPicture={pictures.ask}>
            <InsertButtons editor={editor} onField={() => onBrace(false)} onMore={insert} />
          </Toolbar>
        </div>
      )}
      <FormattedEditor
        label={label}
        extensions={extensions}
        first={first}
        readOnly={readOnly}
        onReady={(e) => {
          setEditor(e);
          onReady(e);
        }}
        onChange={onChange}
        onFocus={onFocus}
        onBrace={() => onBrace(true)}
        onSlash={insert}
        onPictures={pictures.take}
      />
      {settings && editor && selected.length > 0 && (
        <div className="mt-2 max-w-sm border-t border-rule pt-3">
          <SelectedNote editor={editor} selected={selected} fields={fields} />
        </div>
      )}
      {pictures.dialog}
      {inserting && editor && (
        <InsertList
          editor={editor}
          at={inserting.at}
          onPicture={pictures.ask}
          onField={() => onBrace(false)}
          onClose={() => {
            setInserting(null);
            requestAnimationFrame(() => editor.view.focus());
          }}
        />
      )}
    </>
  );
}

type ButtonsProps = { editor: Editor; onField: () => void; onMore: () => void };

function InsertButtons({ editor, onField, onMore }: ButtonsProps) {
  const put = (name: string, act: () => void) => (
    <button
      key={name}
      type="button"
      onMouseDown={(e) => e.preventDefault()}
      onClick={act}
      className="h-8 rounded-sm px-2 text-sm whitespace-nowrap hover:bg-main-soft"
    >
      {name}
    </button>
  );
  return (
    <>
      {put("Field", onField)}
      {put("Blank", () =>
        editor
          .chain()
          .focus()
          .insertContent({ type: "blank", attrs: { name: "words", kind: "text" } })
          .setNodeSelection(editor.state.selection.from)
          .run(),
      )}
      {put("Only when", () => editor.chain().focus().wrapIn("onlyWhen", { path: "person.city" }).run())}
      {put("Fixed", () => editor.chain().focus().wrapIn("fixed").run())}
      {put("Other blocks", onMore)}
    </>
  );
}
