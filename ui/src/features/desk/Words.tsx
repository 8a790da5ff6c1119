import type { Extensions } from "@tiptap/core";
import { type Editor, EditorContent, useEditor } from "@tiptap/react";
import { useEffect } from "react";
import { keepFixed } from "./keepFixed";
import type { Doc } from "./useDraft";

type Props = {
  label: string;
  extensions: Extensions;
  first: Doc;
  multiline?: boolean;
  className?: string;
  onReady: (editor: Editor) => void;
  onChange: (doc: Doc) => void;
  onGap: (path: string) => void;
  onEnter?: () => void;
};

/** A stretch of the letter that is written on: its subject or its body. */
export function Words({
  label,
  extensions,
  first,
  multiline = true,
  className = "",
  onReady,
  onChange,
  onGap,
  onEnter,
}: Props) {
  const editor = useEditor({
    extensions: [...extensions, keepFixed],
    content: first,
    immediatelyRender: true,
    shouldRerenderOnTransaction: false,
    editorProps: {
      attributes: { role: "textbox", "aria-label": label, "aria-multiline": String(multiline), spellcheck: "true" },
      handleKeyDown: (_, event) => {
        if (event.key !== "Enter" || multiline || event.ctrlKey) return false;
        onEnter?.();
        return true;
      },
      handleClickOn: (_view, _pos, node) => {
        if (node.type.name !== "gap") return false;
        onGap(node.attrs.path);
        return true;
      },
    },
    onUpdate: ({ editor: e }) => onChange(e.getJSON() as unknown as Doc),
  });
  useEffect(() => {
    if (editor) onReady(editor);
  }, [editor, onReady]);
  return <EditorContent editor={editor} className={`letter-text ${className}`} />;
}
