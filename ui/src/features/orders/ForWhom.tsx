import { useState } from "react";
import { $api, type Schemas } from "../../api/client";
import { Button } from "../../components/Button";
import { ProblemText } from "../../components/ProblemText";
import { useFilter } from "../lists/FilterLine";
import { FilterPanel } from "../lists/FilterPanel";
import { sentence } from "../lists/tree";

/** Whom an order is for: everybody, or those whom a filter holds. */
export function ForWhom({ text, onChange }: { text: string; onChange: (text: string) => void }) {
  const [open, setOpen] = useState(false);
  const read = useFilter(text);
  const fields = $api.useQuery("get", "/api/filter/fields").data ?? [];
  const users = $api.useQuery("get", "/api/colleagues").data?.users ?? [];
  const tree: Schemas["Expr"] | undefined = text === "" ? {} : read.isPlaceholderData ? undefined : read.data?.tree;
  return (
    <section aria-label="For whom">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-2">
        <p className="min-w-0 flex-1 basis-full sm:basis-0">
          {text === ""
            ? "For everybody it happens to."
            : read.data && fields.length > 0
              ? `For those of whom this holds: ${sentence(read.data.tree, fields, users)}`
              : "For those whom a filter holds."}
        </p>
        <Button aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? "Close the filter" : text ? "Change the filter" : "Only for some"}
        </Button>
        {text && (
          <Button look="quiet" onClick={() => onChange("")}>
            For everybody
          </Button>
        )}
      </div>
      <ProblemText error={text ? read.error : null} />
      {open && (tree || read.error) && <FilterPanel text={text} tree={tree} onFilter={onChange} />}
    </section>
  );
}
