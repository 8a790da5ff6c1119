import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { type Action, Actions } from "../../components/Actions";
import { Button } from "../../components/Button";
import { EditableFacts } from "../../components/EditableFacts";
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

/** The values that letters take from the team, and the custom fields of every record. */
export function FieldsPage() {
  const fields = $api.useQuery("get", "/api/fields");
  const me = $api.useQuery("get", "/api/session").data;
  const queries = useQueryClient();
  const [deleting, setDeleting] = useState<Field | null>(null);
  const [changing, setChanging] = useState<Field | null>(null);
  const [adding, setAdding] = useState(false);
  const mayEdit = me?.may.editShared ?? false;
  const own = (fields.data ?? []).filter((f) => f.own && f.home);
  const move = async (path: string, before = "") => {
    const params = { params: { path: { path } }, body: before ? { before } : {} };
    const { error } = await api.POST("/api/fields/{path}/move", params).catch(noAnswer);
    if (error) toast.error(wordsOf(error));
    await queries.invalidateQueries({ queryKey: ["get", "/api/fields"] });
  };
  return (
    <div className="mx-auto max-w-4xl px-3 pt-4 pb-8 sm:px-6">
      <Teams />
      <div className="mb-4 flex flex-wrap items-center gap-4">
        <h2 className="font-serif text-2xl font-semibold">Custom fields</h2>
        <p className="min-w-0 flex-1 text-sm text-ink-soft">
          Fields of your own for people, companies, deals, senders and the team.
        </p>
        {mayEdit && <Button onClick={() => setAdding(true)}>New field</Button>}
      </div>
      <ProblemText error={fields.error} />
      {fields.isPending && <Loading />}
      {fields.data && own.length === 0 && <p className="py-8 text-ink-soft">There are no custom fields yet.</p>}
      <ul
        aria-label="Custom fields"
        {...(!mayEdit && { tabIndex: 0 })}
        className="border-t border-rule bg-sheet empty:hidden"
      >
        {own.map((f, i) => (
          <li key={f.path} className="flex flex-wrap items-baseline gap-x-4 border-b border-rule px-3 py-1.5">
            <span className="min-w-0 flex-1 font-medium">{f.label}</span>
            <code className="text-sm text-ink-soft">{f.path}</code>
            <span className="w-36 text-sm text-ink-soft">{types.find(([t]) => t === f.type)?.[1] ?? f.type}</span>
            {mayEdit && (
              <Actions
                label={`Actions for ${f.label}`}
                items={[
                  [f.type === "choice" ? "Rename or change choices" : "Rename", () => setChanging(f)],
                  ...(i > 0 ? [["Move up", () => void move(f.path, own[i - 1]?.path)] as Action] : []),
                  ...(i < own.length - 1 ? [["Move down", () => void move(f.path, own[i + 2]?.path)] as Action] : []),
                  null,
                  ["Delete", () => setDeleting(f)],
                ]}
              />
            )}
          </li>
        ))}
      </ul>
      {deleting && <DeleteField field={deleting} onClose={() => setDeleting(null)} />}
      {changing && <ChangeField field={changing} onClose={() => setChanging(null)} />}
      {adding && <AddField onClose={() => setAdding(false)} />}
    </div>
  );
}

function Teams() {
  const teams = $api.useQuery("get", "/api/teams");
  return (
    <section aria-label="Team" className="mb-8">
      <h1 className="font-serif text-2xl font-semibold">Team and fields</h1>
      <p className="text-sm text-ink-soft">Letters take these values from their sender’s team.</p>
      <ProblemText error={teams.error} />
      {teams.data?.map((t) => (
        <section key={t.id} aria-label={t.name} className="mt-3 border border-rule bg-sheet px-4 pt-2 pb-4">
          <h3 className="font-semibold">{t.name}</h3>
          <EditableFacts
            kind="team"
            id={t.id}
            fields={t.fields}
            readOnly={!t.mayEdit}
            whole
            onChange={() => teams.refetch()}
          />
        </section>
      ))}
    </section>
  );
}

function ChangeField({ field, onClose }: { field: Field; onClose: () => void }) {
  const queries = useQueryClient();
  const [label, setLabel] = useState(field.label);
  const [choices, setChoices] = useState(field.choices.join(", "));
  const [problem, setProblem] = useState("");
  const store = async (event: FormEvent) => {
    event.preventDefault();
    const params = { path: { path: field.path } };
    const body = { label, choices: listed(choices) };
    const { error } = await api.PATCH("/api/fields/{path}", { params, body }).catch(noAnswer);
    if (error) return setProblem(wordsOf(error));
    await queries.invalidateQueries();
    onClose();
  };
  return (
    <Modal title={`Change the field “${field.label}”`} onClose={onClose}>
      <form onSubmit={store} className="flex flex-col gap-4">
        {problem && (
          <p role="alert" className="border-l-3 border-stop bg-stop-soft px-3 py-2 text-stop">
            {problem}
          </p>
        )}
        <Input
          label="Name"
          data-autofocus
          value={label}
          maxLength={80}
          onChange={(e) => setLabel(e.target.value)}
          hint={`Templates go on using ${field.path}.`}
        />
        {field.type === "choice" && (
          <Input
            label="Choices, separated by commas"
            value={choices}
            onChange={(e) => setChoices(e.target.value)}
            hint="Records keep a value that is no longer a choice until somebody changes it."
          />
        )}
        <div>
          <Button look="main" type="submit">
            Save the field
          </Button>
        </div>
      </form>
    </Modal>
  );
}

const listed = (text: string) =>
  text
    .split(",")
    .map((c) => c.trim())
    .filter(Boolean);

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
    const { error } = await api
      .POST("/api/fields", { body: { path, label, type: type as "text", choices: listed(choices) } })
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
