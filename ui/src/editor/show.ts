import type { Editor } from "@tiptap/react";

/**
 * Shows a document that the server changed: only what differs is exchanged, so that the cursor stays in its words. What
 * is shown is not taken for something the writer typed.
 */
export function show(editor: Editor | null, json: object) {
  if (!editor) return;
  const now = editor.state.doc;
  const next = editor.schema.nodeFromJSON(json);
  const from = now.content.findDiffStart(next.content);
  const ends = now.content.findDiffEnd(next.content);
  if (from === null || !ends) return;
  const overlap = Math.max(0, from - Math.min(ends.a, ends.b));
  const slice = next.slice(from, ends.b + overlap);
  editor.view.dispatch(editor.state.tr.replace(from, ends.a + overlap, slice).setMeta("preventUpdate", true));
}
