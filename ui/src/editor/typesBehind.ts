import { Extension } from "@tiptap/core";
import { NodeSelection, Plugin, TextSelection } from "@tiptap/pm/state";
import type { EditorView } from "@tiptap/pm/view";

/** Puts the cursor behind a chip that is selected; tells whether one was. */
function behind(view: EditorView): boolean {
  const { selection, doc } = view.state;
  if (!(selection instanceof NodeSelection) || !selection.node.isInline || selection.node.type.name === "gap")
    return false;
  view.dispatch(view.state.tr.setSelection(TextSelection.create(doc, selection.to)));
  return true;
}

/**
 * A chip that is selected shows its settings, as one does that was just inserted. What is typed or pasted then goes
 * behind it: only Delete takes it away.
 */
export const TypesBehind = Extension.create({
  name: "typesBehind",
  addProseMirrorPlugins: () => [
    new Plugin({
      props: {
        handleTextInput(view, _from, _to, text) {
          if (!behind(view)) return false;
          view.dispatch(view.state.tr.insertText(text).scrollIntoView());
          return true;
        },
        handlePaste(view) {
          behind(view);
          return false;
        },
        handleKeyDown(view, event) {
          // Chromium may type over a selected chip before the editor is asked.
          if (event.key.length === 1 && !event.ctrlKey && !event.metaKey && !event.altKey) behind(view);
          return false;
        },
        handleDOMEvents: {
          compositionstart(view) {
            behind(view);
            return false;
          },
        },
      },
    }),
  ],
});
