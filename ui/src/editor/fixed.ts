import { Extension, Mark } from "@tiptap/core";
import type { Node as PMNode } from "@tiptap/pm/model";
import { Plugin, PluginKey } from "@tiptap/pm/state";
import { focusAt } from "./caret";

/** Words of the template that writers may not change. What is typed beside them is not part of them. */
export const FixedWords = Mark.create({
  name: "fixedWords",
  inclusive: false,
  renderHTML: () => ["span", { class: "fixed-words", title: "Fixed by the template" }, 0],
});

const fixed = (node: PMNode | null | undefined) => node?.marks.some((m) => m.type.name === "fixedWords") ?? false;

/** Whether a change between two places of a document would touch fixed words. */
function touches(doc: PMNode, from: number, to: number): boolean {
  const at = doc.resolve(from);
  for (let d = at.depth; d > 0; d--) if (at.node(d).type.name === "fixed") return true;
  if (from === to) {
    return fixed(at.nodeBefore) && fixed(at.nodeAfter);
  }
  let hit = false;
  doc.nodesBetween(from, to, (node) => {
    if (node.type.name === "fixed" || (fixed(node) && node.type.name !== "gap")) hit = true;
    return !hit;
  });
  return hit;
}

/** Refuses what would change fixed words, and says so. What the program loads is taken as it is. */
export const KeepFixed = Extension.create<{ onRefused: () => void }>({
  name: "keepFixed",
  addOptions: () => ({ onRefused: () => {} }),
  // A browser stops at what cannot be edited on the way to the end.
  addKeyboardShortcuts() {
    const go = (place: "start" | "end") => () => {
      focusAt(this.editor, place);
      this.editor.commands.scrollIntoView();
      return true;
    };
    return { "Mod-End": go("end"), "Mod-Home": go("start") };
  },
  addProseMirrorPlugins() {
    const { onRefused } = this.options;
    return [
      new Plugin({
        key: new PluginKey("keepFixed"),
        filterTransaction(tr) {
          if (!tr.docChanged || tr.getMeta("preventUpdate") !== undefined) return true;
          const refused = tr.steps.some((step, i) => {
            const before = tr.docs[i];
            if (!before) return false;
            // Marks have a stretch, settings a node; neither moves anything.
            const { from, to, pos } = step.toJSON() as { from?: number; to?: number; pos?: number };
            if (pos !== undefined) return touches(before, pos, pos + (before.nodeAt(pos)?.nodeSize ?? 0));
            let hit = false;
            let moves = false;
            step.getMap().forEach((start, end) => {
              moves = true;
              hit = hit || touches(before, start, end);
            });
            if (!moves && from !== undefined) hit = touches(before, from, to ?? from);
            return hit;
          });
          if (refused) onRefused();
          return !refused;
        },
      }),
    ];
  },
});
