import { type Editor, useEditorState } from "@tiptap/react";
import {
  Bold,
  Columns2,
  Image,
  Italic,
  Link,
  List,
  ListOrdered,
  type LucideIcon,
  Minus,
  MousePointerClick,
  Quote,
  Redo2,
  Strikethrough,
  Table,
  Underline,
  Undo2,
} from "lucide-react";
import { type ReactNode, useLayoutEffect, useRef, useState } from "react";
import { type Action, Actions } from "../components/Actions";
import { Emoji } from "./Emoji";

type Tool = { name: string; icon: LucideIcon; on?: boolean; off?: boolean; act: () => void };

function Tools({ tools }: { tools: Tool[] }) {
  return tools.map(({ name, icon: Icon, on, off, act }) => (
    <button
      key={name}
      type="button"
      title={name}
      aria-label={name}
      aria-pressed={on}
      disabled={off}
      // The editor keeps its selection.
      onMouseDown={(e) => e.preventDefault()}
      onClick={act}
      className={`grid size-7.5 place-items-center rounded-sm disabled:opacity-40 ${on ? "bg-main-soft text-main" : "hover:bg-main-soft"}`}
    >
      <Icon size={16} aria-hidden />
    </button>
  ));
}

const paragraph = () => ({ type: "paragraph" });
const levels = ["Text", "Large heading", "Heading", "Small heading"];

/** How many tools stand in a row of this width, with room for what is always there and for the rest behind one. */
function useFit(all: number) {
  const row = useRef<HTMLDivElement>(null);
  const [fit, setFit] = useState(all);
  useLayoutEffect(() => {
    const el = row.current;
    if (!el) return;
    const look = () => {
      const each = (el.querySelector("button")?.offsetWidth ?? 30) + 1;
      const room = Math.floor((el.clientWidth - 6) / each); // beside the line between words and blocks
      setFit(room > all ? all : Math.max(0, room - 2));
    };
    const seen = new ResizeObserver(look);
    seen.observe(el);
    look();
    return () => seen.disconnect();
  }, [all]);
  return { row, fit };
}

type Props = { editor: Editor; onPicture: () => void; children?: ReactNode };

/** What can be done with the words and blocks of a formatted body; children are what only templates have. */
export function Toolbar({ editor, onPicture, children }: Props) {
  const s = useEditorState({
    editor,
    selector: ({ editor: e }) => ({
      level: e.isActive("heading") ? Number(e.getAttributes("heading").level) : 0,
      align: String(e.getAttributes("heading").align || e.getAttributes("paragraph").align || ""),
      on: Object.fromEntries(
        ["bold", "italic", "underline", "strike", "link", "bulletList", "orderedList", "blockquote"].map((n) => [
          n,
          e.isActive(n),
        ]),
      ),
      undo: e.can().undo(),
      redo: e.can().redo(),
    }),
  });
  const chain = () => editor.chain().focus();
  const insert = (content: object) => chain().insertContent(content).run();
  const words: Tool[] = [
    { name: "Bold", icon: Bold, on: s.on.bold, act: () => chain().toggleBold().run() },
    { name: "Italic", icon: Italic, on: s.on.italic, act: () => chain().toggleItalic().run() },
    { name: "Underline", icon: Underline, on: s.on.underline, act: () => chain().toggleUnderline().run() },
    { name: "Strike", icon: Strikethrough, on: s.on.strike, act: () => chain().toggleStrike().run() },
    {
      name: "Link",
      icon: Link,
      on: s.on.link,
      act: () =>
        s.on.link
          ? chain().unsetLink().run()
          : editor.state.selection.empty
            ? insert({ type: "text", text: "link", marks: [{ type: "link", attrs: { href: "https://" } }] })
            : chain().setLink({ href: "https://" }).run(),
    },
  ];
  const blocks: Tool[] = [
    { name: "Bullets", icon: List, on: s.on.bulletList, act: () => chain().toggleBulletList().run() },
    { name: "Numbers", icon: ListOrdered, on: s.on.orderedList, act: () => chain().toggleOrderedList().run() },
    { name: "Quote", icon: Quote, on: s.on.blockquote, act: () => chain().toggleBlockquote().run() },
    { name: "Table", icon: Table, act: () => chain().insertTable({ rows: 2, cols: 2, withHeaderRow: true }).run() },
    {
      name: "Two columns",
      icon: Columns2,
      act: () =>
        insert({
          type: "columns",
          content: [
            { type: "column", content: [paragraph()] },
            { type: "column", content: [paragraph()] },
          ],
        }),
    },
    {
      name: "Button",
      icon: MousePointerClick,
      act: () =>
        insert({ type: "button", attrs: { href: "https://" }, content: [{ type: "text", text: "Book a visit" }] }),
    },
    { name: "Picture", icon: Image, act: onPicture },
    { name: "Divider", icon: Minus, act: () => insert({ type: "divider" }) },
  ];
  const history: Tool[] = [
    { name: "Undo", icon: Undo2, off: !s.undo, act: () => chain().undo().run() },
    { name: "Redo", icon: Redo2, off: !s.redo, act: () => chain().redo().run() },
  ];
  const { row, fit } = useFit(words.length + blocks.length);
  const hidden = [...words, ...blocks].slice(fit);
  return (
    <div role="toolbar" aria-label="Formatting" className="flex flex-wrap items-center gap-x-px gap-y-0.5">
      <Tools tools={history} />
      <span aria-hidden className="mx-0.5 h-5 border-l border-rule-strong" />
      <select
        aria-label="Style"
        value={s.level}
        onChange={(e) => {
          const level = Number(e.target.value) as 0 | 1 | 2 | 3;
          if (level) chain().setHeading({ level }).run();
          else chain().setParagraph().run();
        }}
        className="h-7.5 bg-transparent pr-0.5 text-sm"
      >
        {levels.map((name, level) => (
          <option key={name} value={level}>
            {name}
          </option>
        ))}
      </select>
      <select
        aria-label="Align"
        value={s.align}
        onChange={(e) => {
          const align = e.target.value;
          chain().updateAttributes("paragraph", { align }).updateAttributes("heading", { align }).run();
        }}
        className="h-7.5 bg-transparent pr-0.5 text-sm"
      >
        <option value="">Left</option>
        <option value="center">Centred</option>
        <option value="right">Right</option>
      </select>
      <div ref={row} className="flex min-w-60 flex-1 items-center gap-x-px">
        <Tools tools={words.slice(0, fit)} />
        {fit > words.length && <span aria-hidden className="mx-0.5 h-5 border-l border-rule-strong" />}
        <Tools tools={blocks.slice(0, Math.max(0, fit - words.length))} />
        <Emoji onPick={(sign) => chain().insertContent(sign).run()} />
        {hidden.length > 0 && (
          <Actions label="More tools" items={hidden.map((t): Action => [t.name, () => requestAnimationFrame(t.act)])} />
        )}
      </div>
      {/* Together, so that no button stands alone in a row. */}
      {children && <div className="flex items-center gap-x-px max-sm:flex-wrap">{children}</div>}
    </div>
  );
}
