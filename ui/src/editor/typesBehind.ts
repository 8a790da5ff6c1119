import { Extension } from "@tiptap/core";
import type { Node } from "@tiptap/pm/model";
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
 * Selects the chip that was pressed a second or third time in quick succession. The editor leaves that to the browser,
 * whose selection it hears of too late for the key that follows.
 */
function selects(view: EditorView, _pos: number, node: Node, at: number, _event: MouseEvent, direct: boolean): boolean {
  if (!direct || !node.isInline || !node.isAtom || node.isText || node.type.name === "gap") return false;
  if (!NodeSelection.isSelectable(node)) return false;
  view.dispatch(view.state.tr.setSelection(NodeSelection.create(view.state.doc, at)));
  view.focus();
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
        handleDoubleClickOn: selects,
        handleTripleClickOn: selects,
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
