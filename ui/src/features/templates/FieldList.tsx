import { useState } from "react";
import { $api, type Schemas } from "../../api/client";
import { Modal } from "../../components/Modal";

type Field = Schemas["FieldInfo"];

const groups: [string, string][] = [
  ["person", "Person (lead or contact)"],
  ["lead", "Only leads"],
  ["contact", "Only contacts"],
  ["company", "Company"],
  ["deal", "Deal"],
  ["deal.main_contact", "Main contact of the deal"],
  ["owner", "Owner of the record"],
  ["sender", "Sender"],
  ["team", "Team"],
  ["today", "Day"],
];

type Props = {
  /** What the person on trial has, shown beside the fields. */
  facts?: Schemas["Fact"][];
  /** The records whose fields are offered; without them all. */
  only?: string[];
  onPick: (field: Field) => void;
  onClose: () => void;
};

/** The merge fields by record, to be picked. */
export function FieldList({ facts = [], only, onPick, onClose }: Props) {
  const [q, setQ] = useState("");
  const fields = $api.useQuery("get", "/api/fields");
  const values = new Map(facts.map((f) => [f.path, f.value.length > 28 ? `${f.value.slice(0, 28)}…` : f.value]));
  const words = q.toLowerCase().split(/\s+/).filter(Boolean);
  const hits = (fields.data ?? []).filter(
    (f) => (!only || only.includes(f.record)) && words.every((w) => `${f.label} ${f.path}`.toLowerCase().includes(w)),
  );
  // What Enter takes: the field that is called just so, else the first that fits.
  const first = hits.find((f) => f.label.toLowerCase() === q.trim().toLowerCase()) ?? hits[0];
  return (
    <Modal title="Insert a merge field" onClose={onClose}>
      <input
        type="search"
        aria-label="Search fields"
        placeholder="Search fields"
        // biome-ignore lint/a11y/noAutofocus: the dialog was opened to search
        autoFocus
        value={q}
        onChange={(e) => setQ(e.target.value)}
        onKeyDown={(e) => {
          if (e.key !== "Enter" || !first) return;
          e.preventDefault(); // or the editor, which has the focus again, takes it too
          onPick(first);
        }}
        className="w-full border-b border-rule-strong bg-transparent py-1 outline-none focus:border-main"
      />
      {groups.map(([record, name]) => {
        const list = hits.filter((f) => f.record === record);
        if (list.length === 0) return null;
        return (
          <section key={record} aria-label={name} className="mt-4">
            <h3 className="border-b border-rule pb-1 text-sm font-semibold text-ink-soft">{name}</h3>
            <ul className="sm:columns-2">
              {list.map((f) => (
                <li key={f.path}>
                  <button
                    type="button"
                    title={f.path}
                    onClick={() => onPick(f)}
                    className={`w-full rounded-sm px-1 py-0.5 text-left hover:bg-main-soft ${q && f === first ? "bg-main-soft" : ""}`}
                  >
                    {f.label} <span className="text-sm text-ink-soft">{values.get(f.path)}</span>
                  </button>
                </li>
              ))}
            </ul>
          </section>
        );
      })}
      {fields.data && hits.length === 0 && <p className="mt-4 text-ink-soft">No fields match.</p>}
    </Modal>
  );
}
