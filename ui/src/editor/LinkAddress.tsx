import { useId, useRef, useState } from "react";

/** A field that can stand in an address: what it is called, and what is put in for it. */
export type Offer = { name: string; put: string };

type Props = { label: string; value: string; offers: Offer[]; onChange: (address: string) => void };

/** An address as people type it, with what programs need before it. */
function whole(typed: string): string {
  const address = typed.trim();
  if (/^[^\s@:/]+@[^\s@:/]+$/.test(address)) return `mailto:${address}`;
  return /^[\w-]+(\.[\w-]+)+(\/|$)/.test(address) ? `https://${address}` : address;
}

/** The address of a link, a button or a picture. A brace, or the button, offers merge fields. */
export function LinkAddress({ label, value, offers, onChange }: Props) {
  const [typed, setTyped] = useState(value);
  const [was, setWas] = useState(value);
  const [open, setOpen] = useState<number | null>(null); // where the brace stands
  const [at, setAt] = useState(0);
  const input = useRef<HTMLInputElement>(null);
  const id = useId();
  if (was !== value) {
    // The note went to another address.
    setWas(value);
    setTyped(value);
  }
  const caret = () => input.current?.selectionStart ?? typed.length;
  const words = open === null ? "" : typed.slice(open, Math.max(open, caret())).replace(/^\{+/, "").toLowerCase();
  const hits =
    open === null ? [] : offers.filter((o) => `${o.name} ${o.put}`.toLowerCase().includes(words)).slice(0, 40);
  const chosen = hits[Math.min(at, hits.length - 1)];
  const store = (text: string) => {
    const address = whole(text);
    setTyped(address);
    if (address !== value) onChange(address);
  };
  const take = (offer: Offer) => {
    if (open === null) return;
    const from = open;
    const next = typed.slice(0, from) + offer.put + typed.slice(Math.max(from, caret()));
    setOpen(null);
    setTyped(next);
    requestAnimationFrame(() => {
      input.current?.focus();
      input.current?.setSelectionRange(from + offer.put.length, from + offer.put.length);
    });
  };
  return (
    <div
      role="group"
      className="relative"
      onBlur={(e) => {
        if (e.currentTarget.contains(e.relatedTarget)) return;
        setOpen(null);
        store(typed);
      }}
    >
      <label className="block">
        <span className="text-ink-soft">{label}</span>
        <input
          ref={input}
          role="combobox"
          aria-expanded={hits.length > 0}
          aria-controls={id}
          aria-activedescendant={chosen ? `${id}-${hits.indexOf(chosen)}` : undefined}
          autoComplete="off"
          value={typed}
          onChange={(e) => {
            const now = e.target.value;
            const here = e.target.selectionStart ?? now.length;
            if (now.length > typed.length && now[here - 1] === "{" && open === null && offers.length > 0) {
              setOpen(here - 1);
              setAt(0);
            } else if (open !== null && here < open + 1) setOpen(null);
            setTyped(now);
          }}
          onKeyDown={(e) => {
            const by = { ArrowDown: 1, ArrowUp: -1 }[e.key];
            if (hits.length > 0 && by) {
              e.preventDefault();
              setAt(Math.max(0, Math.min(hits.length - 1, at + by)));
            } else if (e.key === "Enter") {
              e.preventDefault();
              if (chosen) take(chosen);
              else store(typed);
            } else if (e.key === "Escape" && open !== null) {
              e.preventDefault();
              e.stopPropagation();
              setOpen(null);
            }
          }}
          className="w-full border-b border-rule-strong bg-transparent py-0.5 text-ink outline-none focus:border-main"
        />
      </label>
      {offers.length > 0 && (
        <button
          type="button"
          className="text-left text-main underline"
          onClick={() => {
            setOpen(caret());
            setAt(0);
            input.current?.focus();
          }}
        >
          Merge field
        </button>
      )}
      {hits.length > 0 && (
        <div
          id={id}
          role="listbox"
          aria-label="Merge fields"
          className="max-h-48 overflow-auto border border-rule-strong bg-sheet"
        >
          {hits.map((o, i) => (
            <div
              key={o.put + o.name}
              id={`${id}-${i}`}
              role="option"
              tabIndex={-1}
              aria-selected={o === chosen}
              onMouseDown={(e) => {
                e.preventDefault(); // the line keeps the cursor
                take(o);
              }}
              className={`cursor-pointer px-2 py-0.5 text-ink ${o === chosen ? "bg-main-soft" : ""}`}
            >
              {o.name}
            </div>
          ))}
        </div>
      )}
    </div>
  );
}
