import type { Editor } from "@tiptap/react";
import { useState } from "react";
import { $api } from "../../api/client";
import { Modal } from "../../components/Modal";

type Thing = { name: string; note: string; put: () => void; asks?: boolean };
type Props = { editor: Editor; at: number; onPicture: () => void; onField: () => void; onClose: () => void };

/** What can stand in a letter besides words: found by typing, put in where the cursor was. */
export function InsertList({ editor, at, onPicture, onField, onClose }: Props) {
  const [q, setQ] = useState("");
  const passages = $api.useQuery("get", "/api/passages").data ?? [];
  const chain = () => editor.chain().focus().setTextSelection(at);
  const node = (content: object) => () => chain().insertContent(content).run();
  const things: Thing[] = [
    { name: "Merge field", note: "a value from the record", put: onField, asks: true },
    {
      name: "Blank",
      note: "something the writer fills in",
      put: () =>
        chain()
          .insertContent({ type: "blank", attrs: { name: "words", kind: "text" } })
          .setNodeSelection(at)
          .run(),
    },
    {
      name: "Only when",
      note: "around this paragraph",
      put: () => chain().wrapIn("onlyWhen", { path: "person.city" }).run(),
    },
    { name: "Fixed wording", note: "around this paragraph", put: () => chain().wrapIn("fixed").run() },
    { name: "Picture", note: "from a file or an address", put: onPicture, asks: true },
    {
      name: "Button",
      note: "a link that stands out",
      put: node({ type: "button", attrs: { href: "https://" }, content: [{ type: "text", text: "Book a visit" }] }),
    },
    { name: "Heading", note: "", put: () => chain().setHeading({ level: 2 }).run() },
    { name: "Bullets", note: "a list", put: () => chain().toggleBulletList().run() },
    { name: "Numbers", note: "a list", put: () => chain().toggleOrderedList().run() },
    {
      name: "Table",
      note: "two by two",
      put: () => chain().insertTable({ rows: 2, cols: 2, withHeaderRow: true }).run(),
    },
    {
      name: "Two columns",
      note: "stacked on a phone",
      put: node({
        type: "columns",
        content: [
          { type: "column", content: [{ type: "paragraph" }] },
          { type: "column", content: [{ type: "paragraph" }] },
        ],
      }),
    },
    { name: "Divider", note: "", put: node({ type: "divider" }) },
    ...passages.map((p) => ({
      name: p.name,
      note: `passage ${p.shortcut}: ${p.words}`,
      put: node({ type: "passage", attrs: { name: p.shortcut } }),
    })),
  ];
  const words = q.toLowerCase().split(/\s+/).filter(Boolean);
  const hits = things.filter((t) => words.every((w) => `${t.name} ${t.note}`.toLowerCase().includes(w)));
  const take = (t: Thing | undefined) => {
    if (!t) return;
    // At once: the place is the one where the list was opened, and what is typed next goes behind it.
    if (!t.asks) t.put();
    onClose();
    // When the dialog is gone, so that it does not take the focus back.
    if (t.asks) requestAnimationFrame(t.put);
  };
  return (
    <Modal title="Insert" onClose={onClose}>
      <input
        type="search"
        aria-label="Search what to insert"
        placeholder="Blank, table, a passage …"
        // biome-ignore lint/a11y/noAutofocus: the dialog was opened to search
        autoFocus
        value={q}
        onChange={(e) => setQ(e.target.value)}
        onKeyDown={(e) => {
          if (e.key !== "Enter") return;
          e.preventDefault();
          take(hits[0]);
        }}
        className="w-full border-b border-rule-strong bg-transparent py-1 outline-none focus:border-main"
      />
      <ul className="mt-3">
        {hits.map((t, i) => (
          <li key={`${t.name} ${t.note}`}>
            <button
              type="button"
              onClick={() => take(t)}
              className={`flex w-full items-baseline gap-3 rounded-sm px-2 py-1 text-left hover:bg-main-soft ${i === 0 && q ? "bg-main-soft" : ""}`}
            >
              <span className="font-medium whitespace-nowrap">{t.name}</span>
              <span className="truncate text-sm text-ink-soft">{t.note}</span>
            </button>
          </li>
        ))}
      </ul>
      {hits.length === 0 && <p className="mt-4 text-ink-soft">Nothing matches.</p>}
    </Modal>
  );
}
