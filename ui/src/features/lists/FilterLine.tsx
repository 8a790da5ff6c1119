import { ListFilter } from "lucide-react";
import { useState } from "react";
import { $api, type Schemas } from "../../api/client";
import { Button } from "../../components/Button";
import { FilterPanel } from "./FilterPanel";
import { type Looked, SaveList, useLists } from "./SavedLists";
import { sentence } from "./tree";

/** The filter that stands in the address as a tree, and what is wrong with it. */
export function useFilter(text: string) {
  return $api.useQuery(
    "get",
    "/api/filter",
    { params: { query: { where: text } } },
    { enabled: text !== "", retry: false, placeholderData: (d) => d },
  );
}

/** Opens and closes the conditions. */
export function FilterButton({ open, on, onToggle }: { open: boolean; on: boolean; onToggle: () => void }) {
  return (
    <Button onClick={onToggle} aria-expanded={open} className={on ? "border-main! font-semibold text-main!" : ""}>
      <ListFilter size={15} aria-hidden /> Filter
    </Button>
  );
}

type Props = { looked: Looked; open: boolean; onFilter: (text: string) => void };

/** What the list is filtered by, as a sentence, and below it the conditions to change it. */
export function FilterLine({ looked, open, onFilter }: Props) {
  const [saving, setSaving] = useState(false);
  const text = looked.filter;
  const read = useFilter(text);
  const fields = $api.useQuery("get", "/api/filter/fields").data ?? [];
  const users = $api.useQuery("get", "/api/colleagues").data?.users ?? [];
  const saved = (useLists().data ?? []).some((l) => l.filter === (read.data?.text ?? text));
  const tree: Schemas["Expr"] | undefined = text === "" ? {} : read.isPlaceholderData ? undefined : read.data?.tree;
  return (
    <>
      {text && (
        <p className="flex flex-wrap items-baseline gap-x-3 border-t border-rule bg-sheet px-4 py-1.5 sm:px-6">
          <span className="min-w-0">
            {read.data && fields.length > 0 && <span>{sentence(read.data.tree, fields, users)}</span>}
          </span>
          <span className="ml-auto flex gap-1">
            {!saved && tree && (
              <Button look="quiet" className="px-1! text-sm" onClick={() => setSaving(true)}>
                Save as a list
              </Button>
            )}
            <Button look="quiet" className="px-1! text-sm" onClick={() => onFilter("")}>
              Clear the filter
            </Button>
          </span>
        </p>
      )}
      {open && (tree || read.error) && <FilterPanel text={text} tree={tree} onFilter={onFilter} />}
      {saving && <SaveList looked={looked} onClose={() => setSaving(false)} />}
    </>
  );
}
