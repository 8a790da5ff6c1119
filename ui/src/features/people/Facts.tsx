import { useQueryClient } from "@tanstack/react-query";
import { PenLine } from "lucide-react";
import { lazy, Suspense, useState } from "react";
import { toast } from "sonner";
import { $api, type Schemas, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { dayOf } from "../../components/time";
import { ValueInput } from "../../components/ValueInput";

const PickTemplate = lazy(() => import("../find/PickTemplate").then((m) => ({ default: m.PickTemplate })));

type Sheet = Schemas["PersonSheet"];
type Field = Schemas["RecordField"];

/** Who this is, across the whole width; every fact is changed in its place. */
export function Facts({ sheet }: { sheet: Sheet }) {
  const [writing, setWriting] = useState(false);
  const [all, setAll] = useState(false);
  const { person, company } = sheet;
  const fields = all ? sheet.fields : sheet.fields.filter((f) => f.value !== "" || f.path === "person.email");
  const missing = sheet.fields.length - fields.length;
  return (
    <header className="border-b border-rule-strong bg-sheet px-4 pt-4 pb-3 sm:px-6">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h1 className="font-serif text-3xl font-semibold">{sheet.name || "No name"}</h1>
        <p className="text-ink-soft">
          {person.kind === "lead" ? "Lead" : "Contact"}
          {company ? ` at ${company.name}` : person.companyName ? ` at ${person.companyName}` : ""}
          {sheet.owner ? ` · looked after by ${sheet.owner}` : ""}
        </p>
        <Button look="main" className="ml-auto" onClick={() => setWriting(true)}>
          <PenLine size={15} aria-hidden /> Write to {person.firstName || sheet.name}
        </Button>
      </div>
      {person.optedOutAt && (
        <p className="mt-2 text-stop">
          Asked on {dayOf(person.optedOutAt)} not to be written to. No letter goes out to this address.
        </p>
      )}
      <dl className="mt-3 grid grid-cols-2 gap-x-6 gap-y-2 sm:grid-cols-3 lg:grid-cols-5">
        {fields.map((f) => (
          <Fact key={f.path} field={f} person={person} />
        ))}
        {company && <Plain label="Company town" value={[company.postalCode, company.city].filter(Boolean).join(" ")} />}
        {sheet.deals.map((d) => (
          <Plain key={d.id} label={`Deal · ${d.stage}`} value={`${d.name}, ${d.amount}`} />
        ))}
      </dl>
      {(missing > 0 || all) && (
        <Button look="quiet" className="mt-1 -ml-3" onClick={() => setAll(!all)}>
          {all ? "Hide empty facts" : `${missing} empty ${missing === 1 ? "fact" : "facts"}`}
        </Button>
      )}
      <Suspense>{writing && <PickTemplate personId={person.id} onClose={() => setWriting(false)} />}</Suspense>
    </header>
  );
}

function Plain({ label, value }: { label: string; value: string }) {
  if (!value) return null;
  return (
    <div className="min-w-0">
      <dt className="text-sm text-ink-soft">{label}</dt>
      <dd className="truncate" title={value}>
        {value}
      </dd>
    </div>
  );
}

function Fact({ field, person }: { field: Field; person: Schemas["Person"] }) {
  const queries = useQueryClient();
  const [editing, setEditing] = useState(false);
  const change = $api.useMutation("patch", "/api/people/{id}", {
    onSuccess: (stored) => {
      queries.setQueryData(
        $api.queryOptions("get", "/api/people/{id}", { params: { path: { id: person.id } } }).queryKey,
        stored,
      );
      queries.invalidateQueries({ queryKey: ["get", "/api/people/{id}/history"] });
      queries.invalidateQueries({ queryKey: ["get", "/api/people"] });
      setEditing(false);
    },
    onError: (error) => toast.error(wordsOf(error)),
  });
  const save = (value: string) => {
    if (value === field.value) return setEditing(false);
    change.mutate({
      params: { path: { id: person.id } },
      body: { version: person.version, set: { [field.path]: value } },
    });
  };
  return (
    <div className="min-w-0">
      <dt className="text-sm text-ink-soft">{field.label}</dt>
      <dd>
        {editing ? (
          <ValueInput
            label={field.label}
            type={field.type}
            choices={field.choices}
            value={field.value}
            busy={change.isPending}
            onDone={save}
            onCancel={() => setEditing(false)}
          />
        ) : (
          <button
            type="button"
            aria-label={`${field.label}: ${field.shown || "empty"}, change`}
            title={field.shown}
            onClick={() => setEditing(true)}
            className={`-mx-1 block max-w-full truncate rounded-sm px-1 text-left hover:bg-main-soft ${field.shown ? "" : "text-ink-soft"}`}
          >
            {field.shown || "add"}
          </button>
        )}
      </dd>
    </div>
  );
}
