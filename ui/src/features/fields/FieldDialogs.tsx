import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, type ReactNode, useState } from "react";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Modal } from "../../components/Modal";
import { UsedBy } from "../passages/PassagesPage";

type Field = Schemas["FieldInfo"];
type Record = NonNullable<Schemas["AddFieldRequest"]["record"]>;

export const types: [Field["type"], string][] = [
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

/** The frame of what asks for a field: what goes wrong, what is asked, and the button. */
function FieldForm(props: {
  title: string;
  button: string;
  ready?: boolean;
  store: () => Promise<{ error?: unknown }>;
  onClose: () => void;
  children: ReactNode;
}) {
  const queries = useQueryClient();
  const { write, busy, problem } = useWrite(props.store, async () => {
    await queries.invalidateQueries();
    props.onClose();
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    void write();
  };
  return (
    <Modal title={props.title} onClose={props.onClose}>
      <form onSubmit={submit} className="flex flex-col gap-4">
        {problem && (
          <p role="alert" className="border-l-3 border-stop bg-stop-soft px-3 py-2 text-stop">
            {problem}
          </p>
        )}
        {props.children}
        <div>
          <Button look="main" type="submit" disabled={props.ready === false || busy}>
            {props.button}
          </Button>
        </div>
      </form>
    </Modal>
  );
}

function Choice(props: { label: string; value: string; list: [string, string][]; onChange: (value: string) => void }) {
  return (
    <label className="block">
      <span className="block text-sm text-ink-soft">{props.label}</span>
      <select
        value={props.value}
        onChange={(e) => props.onChange(e.target.value)}
        className="min-h-9 w-full border-b border-rule-strong bg-sheet"
      >
        {props.list.map(([value, name]) => (
          <option key={value} value={value}>
            {name}
          </option>
        ))}
      </select>
    </label>
  );
}

export function ChangeField({ field, onClose }: { field: Field; onClose: () => void }) {
  const [label, setLabel] = useState(field.label);
  const [choices, setChoices] = useState(field.choices.join(", "));
  const [anyway, setAnyway] = useState(false);
  const params = { path: { path: field.path } };
  const gone = field.type === "choice" && field.choices.some((c) => !listed(choices).includes(c));
  const store = () =>
    api.PATCH("/api/fields/{path}", { params, body: { label, choices: listed(choices), anyway: gone && anyway } });
  return (
    <FieldForm title={`Change the field “${field.label}”`} button="Save the field" store={store} onClose={onClose}>
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
      {gone && (
        <label className="flex items-center gap-2">
          <input type="checkbox" checked={anyway} onChange={(e) => setAnyway(e.target.checked)} />
          Remove it even if templates ask for it
        </label>
      )}
    </FieldForm>
  );
}

const listed = (text: string) =>
  text
    .split(",")
    .map((c) => c.trim())
    .filter(Boolean);

export function DeleteField({ field, onClose }: { field: Field; onClose: () => void }) {
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

/** Asks for a new field, perhaps one for a column of a file; tells its path. */
export function AddField(props: {
  onClose: () => void;
  start?: { label: string; type: Field["type"] };
  onMade?: (path: string) => void;
}) {
  const [label, setLabel] = useState(props.start?.label ?? "");
  const [record, setRecord] = useState<Record>("person");
  const [type, setType] = useState<Field["type"]>(props.start?.type ?? "text");
  const [choices, setChoices] = useState("");
  const store = async () => {
    const body = { record, label, type: type as "text", choices: listed(choices) };
    const answer = await api.POST("/api/fields", { body });
    if (answer.data) props.onMade?.(answer.data.path);
    return answer;
  };
  return (
    <FieldForm
      title="New field"
      button="Add the field"
      ready={label.trim() !== ""}
      store={store}
      onClose={props.onClose}
    >
      <Input label="Name" value={label} maxLength={80} onChange={(e) => setLabel(e.target.value)} />
      <Choice
        label="Belongs to"
        value={record}
        list={props.onMade ? records.filter(([r]) => r !== "sender" && r !== "team") : records}
        onChange={(r) => setRecord(r as Record)}
      />
      <Choice label="Type" value={type} list={types} onChange={(t) => setType(t as Field["type"])} />
      {type === "choice" && (
        <Input label="Choices, separated by commas" value={choices} onChange={(e) => setChoices(e.target.value)} />
      )}
    </FieldForm>
  );
}
