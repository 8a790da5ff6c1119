import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Loading } from "../../components/Loading";
import { Modal } from "../../components/Modal";
import { ProblemText } from "../../components/ProblemText";
import { UsedBy } from "../passages/PassagesPage";

type Field = Schemas["FieldInfo"];

const types: [Field["type"], string][] = [
  ["text", "a line of text"],
  ["long", "a long text"],
  ["number", "a number"],
  ["money", "money"],
  ["date", "a date"],
  ["yesno", "yes or no"],
  ["choice", "a choice from a list"],
  ["email", "an email address"],
  ["phone", "a phone number"],
  ["url", "a web address"],
];
const records: [string, string][] = [
  ["person", "Person (lead or contact)"],
  ["lead", "Lead"],
  ["company", "Company"],
  ["deal", "Deal"],
  ["sender", "Sender"],
  ["team", "Team"],
];

/** The team's own fields, and what happens when one goes. */
export function FieldsPage() {
  const fields = $api.useQuery("get", "/api/fields");
  const me = $api.useQuery("get", "/api/session").data;
  const [deleting, setDeleting] = useState<Field | null>(null);
  const [adding, setAdding] = useState(false);
  const mayEdit = me?.role === "lead" || me?.role === "administrator";
  const own = (fields.data ?? []).filter(
    (f) => f.own && !f.path.startsWith("deal.main_contact.") && !/^(contact|owner)\./.test(f.path),
  );
  return (
    <div className="mx-auto max-w-4xl px-3 pt-4 pb-8 sm:px-6">
      <div className="mb-4 flex flex-wrap items-center gap-4">
        <h1 className="font-serif text-2xl font-semibold">Custom fields</h1>
        <p className="min-w-0 flex-1 text-sm text-ink-soft">Fields of your own for people, companies and deals.</p>
        {mayEdit && <Button onClick={() => setAdding(true)}>New field</Button>}
      </div>
      <ProblemText error={fields.error} />
      {fields.isPending && <Loading />}
      {fields.data && own.length === 0 && <p className="py-8 text-ink-soft">There are no custom fields yet.</p>}
      <ul aria-label="Custom fields" className="border-t border-rule bg-sheet empty:hidden">
        {own.map((f) => (
          <li key={f.path} className="flex flex-wrap items-baseline gap-x-4 border-b border-rule px-3 py-1.5">
            <span className="min-w-0 flex-1 font-medium">{f.label}</span>
            <code className="text-sm text-ink-soft">{f.path}</code>
            <span className="w-36 text-sm text-ink-soft">{types.find(([t]) => t === f.type)?.[1] ?? f.type}</span>
            {mayEdit && (
              <Button look="quiet" className="px-1! text-sm" onClick={() => setDeleting(f)}>
                Delete<span className="sr-only"> {f.label}</span>
              </Button>
            )}
          </li>
        ))}
      </ul>
      {deleting && <DeleteField field={deleting} onClose={() => setDeleting(null)} />}
      {adding && <AddField onClose={() => setAdding(false)} />}
    </div>
  );
}

function DeleteField({ field, onClose }: { field: Field; onClose: () => void }) {
  const queries = useQueryClient();
  const params = { params: { path: { path: field.path } } };
  const users = $api.useQuery("get", "/api/fields/{path}/dependants", params, { staleTime: 0 }).data;
  const back = async () => {
    const { error } = await api.POST("/api/fields/{path}/put-back", params).catch(noAnswer);
    if (error) toast.error(wordsOf(error));
    await queries.invalidateQueries();
  };
  const remove = async () => {
    const { error } = await api.DELETE("/api/fields/{path}", params).catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    await queries.invalidateQueries();
    toast.success(`The field “${field.label}” was deleted.`, { action: { label: "Undo", onClick: back } });
    onClose();
  };
  return (
    <Modal title={`Delete the field “${field.label}”`} onClose={onClose}>
      {users && (
        <>
          <UsedBy
            users={users}
            none="No template uses it."
            note="They show an error and can’t be sent until the field is replaced."
          />
          <p className="mb-4 text-sm text-ink-soft">
            The values on your records are kept and come back if you restore the field.
          </p>
          <Button look="main" onClick={remove}>
            Delete the field
          </Button>
        </>
      )}
    </Modal>
  );
}

function AddField({ onClose }: { onClose: () => void }) {
  const queries = useQueryClient();
  const [label, setLabel] = useState("");
  const [record, setRecord] = useState("person");
  const [type, setType] = useState<Field["type"]>("text");
  const [choices, setChoices] = useState("");
  const [problem, setProblem] = useState("");
  const key = label
    .toLowerCase()
    .normalize("NFD")
    .replace(/\p{M}/gu, "")
    .replace(/[^a-z0-9]+/g, "_")
    .replace(/^[^a-z]+|_+$/g, "");
  const path = `${record}.own.${key}`;
  const store = async (event: FormEvent) => {
    event.preventDefault();
    const list = choices
      .split(",")
      .map((c) => c.trim())
      .filter(Boolean);
    const { error } = await api
      .POST("/api/fields", { body: { path, label, type: type as "text", choices: list } })
      .catch(noAnswer);
    if (error) return setProblem(wordsOf(error));
    await queries.invalidateQueries();
    onClose();
  };
  return (
    <Modal title="New field" onClose={onClose}>
      <form onSubmit={store} className="flex flex-col gap-4">
        {problem && (
          <p role="alert" className="border-l-3 border-stop bg-stop-soft px-3 py-2 text-stop">
            {problem}
          </p>
        )}
        <Input
          label="Name"
          value={label}
          maxLength={80}
          onChange={(e) => setLabel(e.target.value)}
          hint={key ? path : ""}
        />
        <label className="block">
          <span className="block text-sm text-ink-soft">Belongs to</span>
          <select
            value={record}
            onChange={(e) => setRecord(e.target.value)}
            className="min-h-9 w-full border-b border-rule-strong bg-sheet"
          >
            {records.map(([value, name]) => (
              <option key={value} value={value}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <label className="block">
          <span className="block text-sm text-ink-soft">Type</span>
          <select
            value={type}
            onChange={(e) => setType(e.target.value)}
            className="min-h-9 w-full border-b border-rule-strong bg-sheet"
          >
            {types.map(([value, name]) => (
              <option key={value} value={value}>
                {name}
              </option>
            ))}
          </select>
        </label>
        {type === "choice" && (
          <Input label="Choices, separated by commas" value={choices} onChange={(e) => setChoices(e.target.value)} />
        )}
        <div>
          <Button look="main" type="submit" disabled={!key}>
            Add the field
          </Button>
        </div>
      </form>
    </Modal>
  );
}
