import { type Editor, useEditorState } from "@tiptap/react";

/** What the cursor is in or on, with its place in the document. */
export type Selected = { kind: string; pos: number; attrs: Record<string, unknown> };

const around = ["button", "table", "fixed", "onlyWhen"];

/** What has settings here, the innermost first. */
export function useSelected(editor: Editor | null): Selected[] {
  return (
    useEditorState({
      editor,
      selector: ({ editor: e }): Selected[] => {
        if (!e) return [];
        const out: Selected[] = [];
        const { selection } = e.state;
        const node = "node" in selection ? (selection.node as { type: { name: string }; attrs: object }) : null;
        if (node && ["field", "blank", "image", "spacer"].includes(node.type.name))
          out.push({ kind: node.type.name, pos: selection.from, attrs: { ...node.attrs } });
        if (e.isActive("link")) out.push({ kind: "link", pos: selection.from, attrs: e.getAttributes("link") });
        const { $from } = selection;
        for (let d = $from.depth; d > 0; d--) {
          const n = $from.node(d);
          if (around.includes(n.type.name))
            out.push({ kind: n.type.name, pos: $from.before(d), attrs: { ...n.attrs } });
        }
        return out;
      },
      equalityFn: (a, b) => JSON.stringify(a) === JSON.stringify(b),
    }) ?? []
  );
}

/** Whether what is selected stands in wording that a writer may not change. */
export function isFixed(editor: Editor | null): boolean {
  return (editor?.isActive("fixed") || editor?.isActive("fixedWords")) ?? false;
}

/** Changes settings of what is selected. */
export function change(editor: Editor, s: Selected, attrs: Record<string, unknown>) {
  if (s.kind === "link") {
    editor.chain().extendMarkRange("link").updateAttributes("link", attrs).run();
    return;
  }
  editor.commands.command(({ tr, state, dispatch }) => {
    const node = state.doc.nodeAt(s.pos);
    if (!node || node.type.name !== s.kind) return false;
    for (const [key, value] of Object.entries(attrs)) tr.setNodeAttribute(s.pos, key, value);
    dispatch?.(tr);
    return true;
  });
}

/** Takes a block from around what is in it. */
export function unwrap(editor: Editor, s: Selected) {
  editor.commands.command(({ tr, state, dispatch }) => {
    const node = state.doc.nodeAt(s.pos);
    if (!node) return false;
    tr.replaceWith(s.pos, s.pos + node.nodeSize, node.content);
    dispatch?.(tr);
    return true;
  });
}
