import { mergeAttributes, Node } from "@tiptap/core";
import BlockquoteNode from "@tiptap/extension-blockquote";
import HardBreak from "@tiptap/extension-hard-break";
import HeadingNode from "@tiptap/extension-heading";
import { BulletList, ListItem, ListKeymap, OrderedList as OrderedListNode } from "@tiptap/extension-list";
import ParagraphNode from "@tiptap/extension-paragraph";
import { TableCell, TableHeader, Table as TableNode, TableRow } from "@tiptap/extension-table";

import { pictureSource } from "./pictures";

// The blocks of docs/format.md; the attributes are exactly those of core/document.

const align = {
  align: { default: "", renderHTML: (a: { align?: string }) => (a.align ? { style: `text-align:${a.align}` } : {}) },
};
const kept = (names: string[], value: unknown = "") =>
  Object.fromEntries(names.map((n) => [n, { default: value, rendered: false }]));

/** What may stand in cells and items, in columns and quotes, and at the top; templates have the only-when besides. */
function contents(template: boolean) {
  const few = `paragraph|heading|bulletList|orderedList|blockquote|image|button|divider|spacer|${template ? "onlyWhen|" : ""}fixed`;
  return { cell: `(${few})+`, rest: `(${few})*`, column: `(${few}|table)+`, top: `(${few}|table|columns)+` };
}

export const atTop = (template: boolean) => contents(template).top;

const Paragraph = ParagraphNode.extend({ addAttributes: () => align });
const Heading = HeadingNode.extend({
  addAttributes() {
    return { ...this.parent?.(), ...align };
  },
}).configure({ levels: [1, 2, 3] });
const OrderedList = OrderedListNode.extend({
  addAttributes: () => ({ start: { default: 1, parseHTML: (el) => Number(el.getAttribute("start")) || 1 } }),
});

const Divider = Node.create({
  name: "divider",
  group: "block",
  parseHTML: () => [{ tag: "hr" }],
  renderHTML: () => ["hr"],
});

const Spacer = Node.create({
  name: "spacer",
  group: "block",
  addAttributes: () => ({ height: { default: 16, rendered: false } }),
  renderHTML: ({ node }) => ["div", { class: "spacer", style: `height:${node.attrs.height || 16}px` }],
});

const Picture = Node.create({
  name: "image",
  group: "block",
  draggable: true,
  addAttributes: () => ({
    ...kept(["src", "alt", "href", "align"]),
    ...kept(["width"], 0),
    ...kept(["gaps"], null),
  }),
  parseHTML: () => [
    {
      tag: "img[src^=http],img[src^='/api/files/']",
      getAttrs: (el) => ({
        src: (el.getAttribute("src") ?? "").replace(/^\/api\/files\//, "cid:"),
        alt: el.getAttribute("alt") ?? "",
      }),
    },
  ],
  renderHTML: ({ node: { attrs } }) => [
    "div",
    { class: "picture", style: attrs.align ? `text-align:${attrs.align}` : "" },
    attrs.src.includes("{{")
      ? ["span", { class: "picture-from" }, `Picture: ${attrs.alt || attrs.src}`]
      : ["img", { src: pictureSource(attrs.src), alt: attrs.alt, ...(attrs.width ? { width: attrs.width } : {}) }],
  ],
});

const LetterButton = Node.create({
  name: "button",
  group: "block",
  content: "inline*",
  defining: true,
  addAttributes: () => ({ ...kept(["href", "align", "color"]), ...kept(["gaps"], null) }),
  parseHTML: () => [{ tag: "div[data-button]" }],
  renderHTML: ({ node: { attrs } }) => [
    "div",
    { "data-button": "", style: attrs.align ? `text-align:${attrs.align}` : "" },
    ["span", { class: "letter-button", style: attrs.color ? `background:${attrs.color}` : "" }, 0],
  ],
});

const Columns = Node.create({
  name: "columns",
  group: "block",
  content: "column{1,3}",
  isolating: true,
  parseHTML: () => [{ tag: "div[data-columns]" }],
  renderHTML: () => ["div", { "data-columns": "", class: "columns-block" }, 0],
});

const Column = Node.create({
  name: "column",
  isolating: true,
  addAttributes: () => kept(["width"], 0),
  parseHTML: () => [{ tag: "div[data-column]" }],
  renderHTML: ({ node }) => [
    "div",
    { "data-column": "", style: node.attrs.width ? `flex:0 0 ${node.attrs.width}%` : "" },
    0,
  ],
});

const FixedBlock = Node.create({
  name: "fixed",
  group: "block",
  defining: true,
  parseHTML: () => [{ tag: "div[data-fixed]" }],
  renderHTML: ({ HTMLAttributes }) => [
    "div",
    mergeAttributes(HTMLAttributes, { "data-fixed": "", class: "fixed-block", title: "Fixed wording" }),
    0,
  ],
});

/** The attributes of a cell: of the table's own only what the stored form has. */
const cell = () => ({ colspan: { default: 1 }, rowspan: { default: 1 }, colwidth: { default: null }, ...align });

export function blocks(template: boolean) {
  const holds = contents(template);
  return [
    Paragraph,
    Heading,
    BulletList,
    OrderedList,
    ListItem.extend({ content: `paragraph ${holds.rest}` }),
    ListKeymap,
    BlockquoteNode.extend({ content: holds.column }),
    TableNode.configure({ resizable: false }),
    TableRow,
    TableHeader.extend({ content: holds.cell, addAttributes: cell }),
    TableCell.extend({ content: holds.cell, addAttributes: cell }),
    Divider,
    Spacer,
    Picture,
    LetterButton,
    Columns,
    Column.extend({ content: holds.column }),
    FixedBlock.extend({ content: holds.top }),
    HardBreak.extend({
      addKeyboardShortcuts() {
        return { "Shift-Enter": () => this.editor.commands.setHardBreak() };
      },
    }),
  ];
}
