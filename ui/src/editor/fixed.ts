import { Extension, Mark } from "@tiptap/core";
import type { Node as PMNode } from "@tiptap/pm/model";
import { Plugin, PluginKey } from "@tiptap/pm/state";

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
  addProseMirrorPlugins() {
    const { onRefused } = this.options;
    return [
      new Plugin({
        key: new PluginKey("keepFixed"),
        filterTransaction(tr) {
          if (!tr.docChanged || tr.getMeta("preventUpdate") !== undefined) return true;
          const refused = tr.mapping.maps.some((map, i) => {
            let hit = false;
            const before = tr.docs[i];
            map.forEach((from, to) => {
              hit = hit || (before !== undefined && touches(before, from, to));
            });
            return hit;
          });
          if (refused) onRefused();
          return !refused;
        },
      }),
    ];
  },
});
