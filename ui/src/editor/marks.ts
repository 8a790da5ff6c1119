import Bold from "@tiptap/extension-bold";
import HighlightMark from "@tiptap/extension-highlight";
import Italic from "@tiptap/extension-italic";
import LinkMark from "@tiptap/extension-link";
import Strike from "@tiptap/extension-strike";
import { TextStyleKit } from "@tiptap/extension-text-style";
import Underline from "@tiptap/extension-underline";

/** A link has an address, in the text form, and in a letter what is missing in it. */
const Link = LinkMark.extend({
  inclusive: false,
  addAttributes: () => ({ href: { default: "" }, gaps: { default: null, rendered: false } }),
}).configure({
  openOnClick: false,
  autolink: false,
  linkOnPaste: false,
  isAllowedUri: () => true, // the server says which addresses may be followed
});

const Highlight = HighlightMark.extend({
  addAttributes: () => ({
    color: { default: "", renderHTML: (a) => (a.color ? { style: `background:${a.color}` } : {}) },
  }),
});

export const marks = [
  Bold,
  Italic,
  Underline,
  Strike,
  Link,
  Highlight,
  TextStyleKit.configure({ backgroundColor: false, lineHeight: false }),
];

/** Fonts that recipients have, as core/document lists them. */
export const fonts = ["Arial", "Verdana", "Tahoma", "Trebuchet MS", "Georgia", "Times New Roman", "Courier New"];
