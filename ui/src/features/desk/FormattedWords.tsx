import type { Editor } from "@tiptap/react";
import { useState } from "react";
import { FormattedEditor } from "../../editor/FormattedEditor";
import { formattedLetter } from "../../editor/formatted";
import { Toolbar } from "../../editor/Toolbar";
import { usePictures } from "../../editor/usePictures";
import { keepFixed } from "./keepFixed";
import type { Doc } from "./useDraft";

const extensions = [...formattedLetter, keepFixed];

type Props = {
  first: Doc;
  onReady: (editor: Editor) => void;
  onChange: (doc: Doc) => void;
  onGap: (path: string) => void;
  onSlash: () => void;
  onTab: (editor: Editor) => boolean;
};

/** The body of a formatted letter. */
export function FormattedWords({ first, onReady, onChange, onGap, onSlash, onTab }: Props) {
  const [editor, setEditor] = useState<Editor | null>(null);
  const pictures = usePictures(editor);
  return (
    <>
      {editor && (
        <div className="sticky top-0 z-10 -mx-3 mb-4 border-b border-rule bg-sheet px-3 pb-1">
          <Toolbar editor={editor} onPicture={pictures.ask} />
        </div>
      )}
      <FormattedEditor
        label="Letter"
        extensions={extensions}
        first={first}
        onReady={(e) => {
          setEditor(e);
          onReady(e);
        }}
        onChange={onChange}
        onGap={onGap}
        onSlash={onSlash}
        onTab={onTab}
        onPictures={pictures.take}
      />
      {pictures.dialog}
    </>
  );
}
