import { Selection, TextSelection } from "@tiptap/pm/state";
import type { Editor } from "@tiptap/react";

/** Where the writer is in a text: behind how many of its letters, and whether at the start of a line. */
export type Caret = { letters: number; starts: boolean };

/** The caret of an editor that has the keyboard, or null. */
export function caretOf(editor: Editor | null): Caret | null {
  return editor?.isFocused ? placeOf(editor) : null;
}

/** Where the caret of an editor is, or was when it had the keyboard last. */
export function placeOf(editor: Editor): Caret {
  const { $head } = editor.state.selection;
  return { letters: editor.state.doc.textBetween(0, $head.pos).length, starts: $head.parentOffset === 0 };
}

/**
 * Gives an editor the keyboard at once, at its start or its end. The editor's own command waits for the next frame, and
 * takes back where keys have moved the caret until then.
 */
export function focusAt(editor: Editor | null, place: "start" | "end") {
  if (!editor) return;
  const { doc, tr } = editor.state;
  editor.view.dispatch(tr.setSelection(place === "start" ? Selection.atStart(doc) : Selection.atEnd(doc)));
  editor.view.focus();
}

/** Gives an editor the keyboard at once, at the place of a caret in the same words of another form. */
export function putCaret(editor: Editor, { letters, starts }: Caret) {
  const { doc, tr } = editor.state;
  let at = 0;
  let behind = 0;
  let found = false;
  doc.descendants((node, pos) => {
    if (node.isTextblock && !found && (behind < letters || starts)) {
      at = pos + 1;
      found = behind === letters;
    }
    if (node.isText && behind < letters) {
      const part = Math.min(letters - behind, node.text?.length ?? 0);
      at = pos + part;
      behind += part;
    }
  });
  editor.view.dispatch(tr.setSelection(TextSelection.near(doc.resolve(at))));
  editor.view.focus();
}
