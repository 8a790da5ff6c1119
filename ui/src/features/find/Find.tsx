import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions, Dialog, DialogPanel } from "@headlessui/react";
import { keepPreviousData } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, wordsOf } from "../../api/client";
import { takeTyped } from "../../app/typedAhead";

type Hit = { key: string; name: string; note: string; act: () => void };

const screens: [string, string][] = [
  ["Today", "/today"],
  ["Deals", "/deals"],
  ["Deals by stage", "/deals?view=stages"],
  ["Companies", "/companies"],
  ["People", "/people"],
  ["Templates", "/templates"],
  ["New template", "/templates/new"],
  ["Starter shelf", "/shelf"],
  ["Passages", "/passages"],
  ["Stationery", "/stationery"],
  ["Documents", "/documents"],
  ["Import and export", "/library"],
  ["Custom fields", "/fields"],
  ["Do not contact", "/opt-outs"],
  ["My profile and signature", "/me"],
  ["Plans", "/plans"],
  ["People on plans", "/plans?view=people"],
  ["Starter plans", "/plans?view=shelf"],
  ["Standing orders", "/plans?view=orders"],
  ["Start a plan", "/start"],
  ["Rounds and recipes", "/rounds"],
  ["Outbox", "/outbox"],
  ["Drafts", "/outbox?view=drafts"],
  ["Import people", "/people/import"],
  ["Post office", "/post-office"],
];

/** Ctrl K: finds people, templates and screens. In the mode "write" it asks for a person to write to. */
export function Find({
  mode,
  onClose,
  onWrite,
}: {
  mode: "find" | "write";
  onClose: () => void;
  onWrite: (person: number) => void;
}) {
  const go = useNavigate();
  const [q, setQ] = useState("");
  const people = $api.useQuery(
    "get",
    "/api/people",
    { params: { query: { q, limit: 8 } } },
    { placeholderData: keepPreviousData },
  );
  const templates = $api.useQuery(
    "get",
    "/api/templates",
    { params: { query: { q, limit: 8 } } },
    { enabled: mode === "find" && q !== "" },
  );
  const words = q.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = (text: string) => words.every((w) => text.toLowerCase().includes(w));
  const to = (path: string) => () => {
    onClose();
    go(path);
  };
  let hits: Hit[] = (people.data?.people ?? []).map((p) => ({
    key: `p${p.id}`,
    name: `${p.firstName} ${p.lastName}`.trim() || p.email,
    note: [p.company, p.email].filter(Boolean).join(" · "),
    act: mode === "write" ? () => onWrite(p.id) : to(`/people/${p.id}`),
  }));
  // Enter must not open somebody found for the letters typed before.
  if (people.isPlaceholderData) hits = hits.filter((h) => fits(`${h.name} ${h.note}`));
  const makeLead = async () => {
    const { data, error } = await api.POST("/api/people", { body: { text: q } }).catch(noAnswer);
    if (!data) return void toast.error(wordsOf(error));
    toast.success(`${data.email} has been added as a lead.`);
    onWrite(data.id);
  };
  // An address that belongs to nobody yet.
  if (mode === "write" && q.includes("@") && people.data && !people.isPlaceholderData && hits.length === 0)
    hits.push({ key: "new", name: q.trim(), note: "Add this address as a lead and write", act: makeLead });
  if (mode === "find") {
    for (const t of templates.data?.templates ?? [])
      hits.push({ key: `t${t.id}`, name: t.name, note: `Template · ${t.state}`, act: to(`/templates/${t.id}`) });
    for (const [name, path] of screens) if (fits(name)) hits.push({ key: path, name, note: "Screen", act: to(path) });
  }
  return (
    <Dialog open onClose={onClose} aria-label={mode === "write" ? "Write to" : "Find"} className="relative z-40">
      <div className="fixed inset-0 bg-ink/25 dark:bg-black/50" aria-hidden />
      <div className="fixed inset-0 flex items-start justify-center p-3 pt-[10vh]">
        <DialogPanel className="w-full max-w-xl rounded-sm border border-rule-strong bg-sheet">
          <Combobox immediate onChange={(hit: Hit | null) => hit?.act()}>
            <ComboboxInput
              autoFocus
              aria-label={mode === "write" ? "Write to whom?" : "Find people, templates, pages"}
              placeholder={mode === "write" ? "Write to whom?" : "Find people, templates, pages"}
              autoComplete="off"
              onFocus={(e) => {
                const { words } = takeTyped();
                if (!words) return;
                e.currentTarget.value += words;
                setQ(e.currentTarget.value);
              }}
              onChange={(e) => setQ(e.target.value)}
              className="w-full border-b border-rule bg-transparent px-5 py-3 font-serif text-lg outline-none"
            />
            <ComboboxOptions static className="max-h-[60vh] overflow-auto py-1">
              {hits.map((hit) => (
                <ComboboxOption
                  key={hit.key}
                  value={hit}
                  className="flex items-baseline gap-3 px-5 py-1.5 data-focus:bg-main-soft"
                >
                  <span className="font-serif font-medium whitespace-nowrap">{hit.name}</span>
                  <span className="truncate text-sm text-ink-soft">{hit.note}</span>
                </ComboboxOption>
              ))}
              {people.data && hits.length === 0 && <p className="px-5 py-3 text-ink-soft">Nothing fits “{q}”.</p>}
            </ComboboxOptions>
          </Combobox>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
