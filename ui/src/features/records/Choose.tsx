import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions, Field, Label } from "@headlessui/react";
import { useState } from "react";
import { $api } from "../../api/client";
import { useTyped } from "../../app/useTyped";

/** A record that was chosen: one that is there, or a name of which one is made (id 0). */
export type Chosen = { id: number; name: string };
type Item = Chosen & { note: string };

type Props = {
  label: string;
  value: Chosen | null;
  items: Item[];
  /** The words that the items were found for; null while they are still those of other words. */
  found: string | null;
  /** What is said when nothing fits. */
  none?: string;
  onSearch: (words: string) => void;
  onChoose: (chosen: Chosen | null) => void;
};

/** A line on which a record is chosen by what one types of it. An empty line chooses none. */
export function Choose({ label, value, items: all, found, none, onSearch, onChoose }: Props) {
  const [typed, setTyped] = useState("");
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  // Enter must not choose what was found for the letters typed before.
  const items =
    found === typed.trim()
      ? all
      : all.filter((i) => words.every((w) => `${i.name} ${i.note}`.toLowerCase().includes(w)));
  return (
    <Field>
      <Label className="block text-sm text-ink-soft">{label}</Label>
      <Combobox
        immediate
        value={value}
        by="id"
        onChange={(c) => {
          if (c) onChoose({ id: c.id, name: c.name });
        }}
      >
        <div>
          <ComboboxInput
            autoComplete="off"
            displayValue={(c: Chosen | null) => c?.name ?? ""}
            onChange={(e) => {
              setTyped(e.target.value);
              onSearch(e.target.value);
              if (e.target.value.trim() === "") onChoose(null);
            }}
            className="block min-h-9 w-full border-b border-rule-strong bg-transparent py-1 outline-none focus:border-main"
          />
          <ComboboxOptions
            modal={false}
            anchor={{ to: "bottom start", gap: 1, padding: 8 }} // over what is below: nothing moves when it closes
            className="z-50 max-h-56 w-(--input-width) overflow-auto border border-rule-strong bg-sheet py-1 empty:hidden"
          >
            {items.map((item) => (
              <ComboboxOption
                key={`${item.id} ${item.name}`}
                value={item}
                className="cursor-pointer px-3 py-1 data-focus:bg-main-soft"
              >
                <span className="font-serif font-medium">{item.name}</span>{" "}
                <span className="text-sm text-ink-soft">{item.note}</span>
              </ComboboxOption>
            ))}
            {items.length === 0 && none && <p className="px-3 py-1 text-sm text-ink-soft">{none}</p>}
          </ComboboxOptions>
        </div>
      </Combobox>
    </Field>
  );
}

type Of = { label: string; value: Chosen | null; onChoose: (chosen: Chosen | null) => void };

/** A company that is there, or a new one of the name that was typed. */
export function ChooseCompany({ label, value, onChoose }: Of) {
  const [q, setQ] = useState("");
  const [, setTyped] = useTyped(q, setQ);
  const companies = $api.useQuery(
    "get",
    "/api/companies",
    { params: { query: { q, limit: 8 } } },
    { placeholderData: (d) => d },
  );
  const items = (companies.data?.companies ?? []).map((c) => ({ id: c.id, name: c.name, note: c.city }));
  const name = value?.id === 0 ? value.name.trim().replace(/\s+/g, " ") : "";
  const there = items.some((i) => i.name.toLowerCase() === name.toLowerCase());
  // What was typed stands first: Enter and Tab mean it.
  if (name && !there) items.unshift({ id: 0, name, note: "a new company" });
  return (
    <Choose
      label={label}
      value={value}
      items={items}
      found={companies.isPlaceholderData ? null : q.trim()}
      onSearch={(words) => {
        setTyped(words);
        // What was typed counts, also when nothing was picked.
        onChoose(words.trim() ? { id: 0, name: words } : null);
      }}
      onChoose={onChoose}
    />
  );
}

/** A person who is there, but for the one who is named as `not`. */
export function ChoosePerson({ label, value, onChoose, not }: Of & { not?: number }) {
  const [q, setQ] = useState("");
  const [, setTyped] = useTyped(q, setQ);
  const people = $api.useQuery(
    "get",
    "/api/people",
    { params: { query: { q, limit: 8 } } },
    { placeholderData: (d) => d },
  );
  const items = (people.data?.people ?? [])
    .filter((p) => p.id !== not)
    .map((p) => ({
      id: p.id,
      name: `${p.firstName} ${p.lastName}`.trim() || p.email,
      note: [p.company, p.email].filter(Boolean).join(" · "),
    }));
  const none = people.isPlaceholderData || !people.data ? "" : "Nobody matches.";
  const found = people.isPlaceholderData ? null : q.trim();
  return (
    <Choose
      label={label}
      value={value}
      items={items}
      found={found}
      none={none}
      onSearch={setTyped}
      onChoose={onChoose}
    />
  );
}

/** What the server is told of a company that was chosen. */
export const companyOf = (c: Chosen | null) => (!c ? {} : c.id ? { companyId: c.id } : { company: c.name });
