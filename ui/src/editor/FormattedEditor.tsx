import type { Extensions } from "@tiptap/core";
import { type Editor, EditorContent, useEditor } from "@tiptap/react";
import { useEffect, useRef } from "react";
import { toast } from "sonner";
import "./formatted.css";
import { settled } from "./formatted";
import { cleanPaste, mostPasted, picturesIn } from "./paste";
import { isTab } from "./tab";

type Props<T> = {
  label: string;
  extensions: Extensions;
  first: T;
  readOnly?: boolean;
  className?: string;
  onReady: (editor: Editor) => void;
  onChange: (doc: T) => void;
  onFocus?: () => void;
  multiline?: boolean;
  /** A brace was typed: offer the merge fields. */
  onBrace?: () => void;
  /** A slash was typed at the start of an empty line: offer what can stand there. */
  onSlash?: () => void;
  /** Tab was pressed; tells whether it did something. */
  onTab?: (editor: Editor) => boolean;
  /** Pictures were pasted or dropped. */
  onPictures?: (files: File[]) => void;
  onEnter?: () => void;
  onGap?: (path: string) => void;
};

/** Writes a formatted body. What is typed is the stored form itself. */
export function FormattedEditor<T extends object>({
  label,
  extensions,
  first,
  readOnly = false,
  multiline = true,
  ...rest
}: Props<T>) {
  const latest = useRef(rest);
  latest.current = rest;
  const own = useRef<Editor>(null);
  const takePictures = (data: DataTransfer | null): boolean => {
    const files = picturesIn(data);
    if (files.length === 0 || !latest.current.onPictures) return false;
    latest.current.onPictures(files);
    return true;
  };
  const editor = useEditor({
    extensions,
    content: first,
    editable: !readOnly,
    immediatelyRender: true,
    shouldRerenderOnTransaction: false,
    editorProps: {
      attributes: { role: "textbox", "aria-label": label, "aria-multiline": String(multiline), spellcheck: "true" },
      handleTextInput: (view, _from, _to, text) => {
        const { onBrace, onSlash } = latest.current;
        const { $from, empty } = view.state.selection;
        if (text === "/" && onSlash && empty && $from.parent.content.size === 0) {
          onSlash();
          return true;
        }
        if (text !== "{" || !onBrace) return false;
        onBrace();
        return true;
      },
      handleKeyDown: (_view, event) => {
        if (isTab(event) && own.current && latest.current.onTab?.(own.current)) return true;
        if (event.key !== "Enter" || multiline || event.ctrlKey) return false;
        latest.current.onEnter?.();
        return true;
      },
      handlePaste: (_view, event) => {
        const data = event.clipboardData;
        const size = (data?.getData("text/html") || data?.getData("text/plain") || "").length;
        if (size > mostPasted) {
          toast.error("What you pasted is larger than 1 MiB, which is too much for a letter. Nothing was pasted.");
          return true;
        }
        return takePictures(data);
      },
      handleDrop: (_view, event, _slice, moved) => !moved && takePictures((event as DragEvent).dataTransfer),
      transformPastedHTML: cleanPaste,
      handleClickOn: (_view, _pos, node) => {
        if (node.type.name !== "gap" || !latest.current.onGap) return false;
        latest.current.onGap(node.attrs.path);
        return true;
      },
    },
    onUpdate: ({ editor: e }) => latest.current.onChange(settled<T>(e.getJSON())),
    onFocus: () => latest.current.onFocus?.(),
  });
  own.current = editor;
  useEffect(() => {
    // Whether somebody may write can become known later than the words.
    if (editor && editor.isEditable === readOnly) editor.setEditable(!readOnly, false);
  }, [editor, readOnly]);
  useEffect(() => {
    if (editor) latest.current.onReady(editor);
  }, [editor]);
  return <EditorContent editor={editor} className={`formatted-text ${rest.className ?? ""}`} />;
}
