import { InputRule, mergeAttributes, Node, type NodeViewRenderer, PasteRule } from "@tiptap/core";
import { atTop } from "./blocks";

// Merge fields, blanks and what else stands in a template, as chips with their label. People see no codes.

const kept = (names: string[], value: unknown = "") =>
  Object.fromEntries(names.map((n) => [n, { default: value, rendered: false }]));

export type Labels = { labelOf: (path: string) => string | undefined };

/** A chip: a label, and marks that say what becomes of a missing value. */
function chip(
  kind: string,
  words: (attrs: Record<string, unknown>) => { label: string; wrong?: boolean },
): NodeViewRenderer {
  return ({ node }) => {
    const dom = document.createElement("span");
    const show = (attrs: Record<string, unknown>) => {
      const { label, wrong } = words(attrs);
      dom.className = `chip chip-${kind}${wrong ? " chip-wrong" : ""}`;
      dom.textContent = label;
      dom.dataset[kind] = String(attrs.path || attrs.name || attrs.code || "");
      dom.setAttribute("role", "img");
      dom.setAttribute("aria-label", `${kind === "field" ? "merge field" : kind}: ${label}`);
    };
    show(node.attrs);
    return {
      dom,
      update: (next) => {
        if (next.type !== node.type) return false;
        show(next.attrs);
        return true;
      },
    };
  };
}

export const Field = Node.create<Labels>({
  name: "field",
  group: "inline",
  inline: true,
  atom: true,
  addOptions: () => ({ labelOf: () => undefined }),
  addAttributes: () => ({ ...kept(["path", "fallback", "as"]), ...kept(["missing"], "must") }),
  parseHTML: () => [{ tag: "span[data-field]", getAttrs: (el) => ({ path: el.getAttribute("data-field") }) }],
  renderHTML: ({ node }) => ["span", { "data-field": node.attrs.path }, node.attrs.path],
  renderText: ({ node }) => `{{${node.attrs.path}}}`,
  addNodeView() {
    const { labelOf } = this.options;
    return chip("field", (a) => {
      const known = labelOf(String(a.path));
      const tail = a.missing === "instead" ? ` or “${a.fallback}”` : a.missing === "leave" ? " or nothing" : "";
      return { label: (known ?? String(a.path)) + tail, wrong: !known };
    });
  },
  // {{person.first_name}} typed out becomes a chip.
  addInputRules() {
    return [
      new InputRule({
        find: /\{\{\s*([a-z][\w]*(?:\.\w+)*)\s*\}\}$/,
        handler: ({ range, match, chain }) => {
          chain()
            .deleteRange(range)
            .insertContent({ type: "field", attrs: { path: match[1] } })
            .run();
        },
      }),
    ];
  },
  // And so do codes in what is pasted; others are told by the server.
  addPasteRules() {
    return [
      new PasteRule({
        find: /\{\{\s*([a-z]\w*(?:\.\w+)+)(?:\s+as\s+(\w+))?(\|[^{}|]*)?\s*\}\}/g,
        handler: ({ range, match, chain }) => {
          const [, path, as, fallback] = match;
          const missing = fallback === undefined ? "must" : fallback === "|" ? "leave" : "instead";
          const attrs = {
            path,
            missing,
            ...(as && { as }),
            ...(missing === "instead" && { fallback: fallback?.slice(1) }),
          };
          chain().deleteRange(range).insertContentAt(range.from, { type: "field", attrs }).run();
        },
      }),
    ];
  },
});

export const Blank = Node.create({
  name: "blank",
  group: "inline",
  inline: true,
  atom: true,
  addAttributes: () => ({
    ...kept(["name", "path", "kind", "hint", "default"]),
    ...kept(["optional"], false),
    ...kept(["choices"], []),
  }),
  parseHTML: () => [{ tag: "span[data-blank]", getAttrs: (el) => ({ name: el.getAttribute("data-blank") }) }],
  renderHTML: ({ node }) => ["span", { "data-blank": node.attrs.name }, node.attrs.name],
  addNodeView: () =>
    chip("blank", (a) => ({
      label: `${String(a.name).replaceAll("_", " ")}${a.path ? `: ${String(a.path).replaceAll("_", " ")}` : ""}${a.optional ? " (optional)" : ""}`,
    })),
});

const code = (name: string, attr: string, kind: string) =>
  Node.create({
    name,
    group: "inline",
    inline: true,
    atom: true,
    addAttributes: () => kept([attr]),
    renderHTML: ({ node }) => ["span", {}, node.attrs[attr]],
    addNodeView: () => chip(kind, (a) => ({ label: String(a[attr]), wrong: name === "malformed" })),
  });

/** A stretch within a line that stands only when a field says so. */
const When = Node.create({
  name: "when",
  group: "inline",
  inline: true,
  content: "inline*",
  addAttributes: () => ({ ...kept(["path", "op"]), ...kept(["not"], false), ...kept(["literals"], []) }),
  parseHTML: () => [{ tag: "span[data-when]" }],
  renderHTML: ({ node }) => ["span", { "data-when": "", class: "when-words", title: node.attrs.path }, 0],
});

const FixedText = Node.create({
  name: "fixedText",
  group: "inline",
  inline: true,
  content: "inline*",
  parseHTML: () => [{ tag: "span[data-fixed-text]" }],
  renderHTML: () => ["span", { "data-fixed-text": "", class: "fixed-words", title: "Fixed wording" }, 0],
});

/** Says an only-when in words. */
export function whenWords(attrs: Record<string, unknown>, labelOf: (path: string) => string | undefined): string {
  const label = labelOf(String(attrs.path)) ?? String(attrs.path);
  const list = (attrs.literals as string[] | undefined) ?? [];
  const op = String(attrs.op ?? "");
  const said = {
    "": "is filled",
    "=": "is",
    "!=": "is not",
    in: "is one of",
    "<": "is less than",
    "<=": "is at most",
    ">": "is more than",
    ">=": "is at least",
  }[op];
  if (attrs.not) return op === "" ? `Only when ${label} is empty` : `Unless ${label} ${said} ${list.join(", ")}`;
  return `Only when ${label} ${said} ${list.join(", ")}`.trim();
}

export const OnlyWhen = Node.create<Labels>({
  name: "onlyWhen",
  group: "block",
  content: atTop(true),
  defining: true,
  addOptions: () => ({ labelOf: () => undefined }),
  addAttributes: () => ({ ...kept(["path", "op"]), ...kept(["not"], false), ...kept(["literals"], []) }),
  parseHTML: () => [{ tag: "div[data-only-when]" }],
  renderHTML: ({ node, HTMLAttributes }) => [
    "div",
    mergeAttributes(HTMLAttributes, { "data-only-when": node.attrs.path, class: "only-when" }),
    0,
  ],
  addNodeView() {
    const { labelOf } = this.options;
    return ({ node }) => {
      const dom = document.createElement("div");
      dom.className = "only-when";
      const head = document.createElement("p");
      head.className = "only-when-head";
      head.contentEditable = "false";
      const contentDOM = document.createElement("div");
      dom.append(head, contentDOM);
      const show = (attrs: Record<string, unknown>) => {
        head.textContent = whenWords(attrs, labelOf);
      };
      show(node.attrs);
      return {
        dom,
        contentDOM,
        update: (next) => {
          if (next.type !== node.type) return false;
          show(next.attrs);
          return true;
        },
        ignoreMutation: (m) => !contentDOM.contains(m.target),
      };
    };
  },
});

export const chips = [
  Blank,
  code("passage", "name", "passage"),
  code("comment", "code", "comment"),
  code("malformed", "code", "malformed"),
  When,
  FixedText,
];
