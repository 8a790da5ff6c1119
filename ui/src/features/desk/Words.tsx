import type { Extensions } from "@tiptap/core";
import { type Editor, EditorContent, useEditor } from "@tiptap/react";
import { useEffect, useRef } from "react";
import { isTab } from "../../editor/tab";
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
  /** A slash was typed on an empty line: offer what can be put in. */
  onSlash?: () => void;
  /** Tab was pressed; tells whether it did something. */
  onTab?: (editor: Editor) => boolean;
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
  ...keys
}: Props) {
  const latest = useRef(keys);
  latest.current = keys;
  const own = useRef<Editor>(null);
  const editor = useEditor({
    extensions: [...extensions, keepFixed],
    content: first,
    immediatelyRender: true,
    shouldRerenderOnTransaction: false,
    editorProps: {
      attributes: { role: "textbox", "aria-label": label, "aria-multiline": String(multiline), spellcheck: "true" },
      handleTextInput: (view, _from, _to, text) => {
        const { $from, empty } = view.state.selection;
        if (text !== "/" || !latest.current.onSlash || !empty || $from.parent.content.size > 0) return false;
        latest.current.onSlash();
        return true;
      },
      handleKeyDown: (_, event) => {
        if (isTab(event) && own.current && latest.current.onTab?.(own.current)) return true;
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
  own.current = editor;
  useEffect(() => {
    if (editor) onReady(editor);
  }, [editor, onReady]);
  return <EditorContent editor={editor} className={`letter-text ${className}`} />;
}
