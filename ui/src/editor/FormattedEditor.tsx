import type { Extensions } from "@tiptap/core";
import { type Editor, EditorContent, useEditor } from "@tiptap/react";
import { useEffect, useRef } from "react";
import "./formatted.css";
import { settled } from "./formatted";

type Props<T> = {
  label: string;
  extensions: Extensions;
  first: T;
  readOnly?: boolean;
  className?: string;
  onReady: (editor: Editor) => void;
  onChange: (doc: T) => void;
  onFocus?: () => void;
  /** A brace was typed: offer the merge fields. */
  onBrace?: () => void;
  onGap?: (path: string) => void;
};

/** Writes a formatted body. What is typed is the stored form itself. */
export function FormattedEditor<T extends object>({ label, extensions, first, readOnly = false, ...rest }: Props<T>) {
  const latest = useRef(rest);
  latest.current = rest;
  const editor = useEditor({
    extensions,
    content: first,
    editable: !readOnly,
    immediatelyRender: true,
    shouldRerenderOnTransaction: false,
    editorProps: {
      attributes: { role: "textbox", "aria-label": label, "aria-multiline": "true", spellcheck: "true" },
      handleTextInput: (_view, _from, _to, text) => {
        if (text !== "{" || !latest.current.onBrace) return false;
        latest.current.onBrace();
        return true;
      },
      handleClickOn: (_view, _pos, node) => {
        if (node.type.name !== "gap" || !latest.current.onGap) return false;
        latest.current.onGap(node.attrs.path);
        return true;
      },
    },
    onUpdate: ({ editor: e }) => latest.current.onChange(settled<T>(e.getJSON())),
    onFocus: () => latest.current.onFocus?.(),
  });
  useEffect(() => {
    if (editor) latest.current.onReady(editor);
  }, [editor]);
  return <EditorContent editor={editor} className={`formatted-text ${rest.className ?? ""}`} />;
}
