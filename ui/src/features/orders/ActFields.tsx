import { Trash2 } from "lucide-react";
import { useState } from "react";
import { $api, type Schemas } from "../../api/client";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { ValueInput } from "../../components/ValueInput";
import { FieldSelect, useChangeable } from "../fields/FieldSelect";
import { ChooseTemplate } from "../plans/ChooseTemplate";
import { TaskKind } from "../plans/TaskKind";

type Act = Schemas["OrderAct"];
type Props = { act: Act; at: number; deal: boolean; onChange: (act: Act) => void; onRemove: () => void };

const line = "block min-h-9 w-full border-b border-rule-strong bg-sheet py-1 outline-none focus:border-main";

const kinds: [Act["do"], string][] = [
  ["letter", "send a template to them"],
  ["note", "send a template to colleagues"],
  ["start", "start a plan"],
  ["stop", "stop a plan"],
  ["task", "make a task for me"],
  ["set", "set a field"],
];

/** One thing that an order does. */
export function ActFields({ act, at, deal, onChange, onRemove }: Props) {
  return (
    <li className="grid gap-x-6 gap-y-3 border border-rule bg-sheet px-4 py-3 sm:grid-cols-2">
      <label className="block">
        <span className="block text-sm text-ink-soft">{at === 0 ? "Then" : "and"}</span>
        <select value={act.do} onChange={(e) => onChange({ do: e.target.value as Act["do"] })} className={line}>
          {kinds.map(([value, name]) => (
            <option key={value} value={value}>
              {name}
            </option>
          ))}
        </select>
      </label>
      {(act.do === "letter" || act.do === "note") && <TemplateField act={act} onChange={onChange} />}
      {act.do === "letter" && <AgainField act={act} onChange={onChange} />}
      {act.do === "note" && <Colleagues act={act} onChange={onChange} />}
      {(act.do === "start" || act.do === "stop") && <PlanField act={act} onChange={onChange} />}
      {act.do === "task" && <TaskFields act={act} onChange={onChange} />}
      {act.do === "set" && <SetField act={act} deal={deal} onChange={onChange} />}
      <span className="sm:col-span-2">
        <Button look="quiet" className="-ml-3 text-sm" onClick={onRemove}>
          <Trash2 size={14} aria-hidden /> Remove<span className="sr-only"> what it does {at + 1}</span>
        </Button>
      </span>
    </li>
  );
}

type Part = { act: Act; onChange: (act: Act) => void };

function TemplateField({ act, onChange }: Part) {
  const [name, setName] = useState(""); // of the one that was chosen here
  return (
    <ChooseTemplate
      label="Template (without blanks)"
      value={act.templateId ? { id: act.templateId, name } : null}
      onChoose={(t) => {
        setName(t.name);
        onChange({ ...act, templateId: t.id });
      }}
    />
  );
}

function Colleagues({ act, onChange }: Part) {
  const users = $api.useQuery("get", "/api/colleagues").data?.users ?? [];
  const chosen = act.colleagues ?? [];
  return (
    <fieldset className="sm:col-span-2">
      <legend className="text-sm text-ink-soft">To</legend>
      <div className="flex flex-wrap gap-x-5 gap-y-1">
        {users.map((u) => (
          <label key={u.id} className="flex items-baseline gap-2">
            <input
              type="checkbox"
              checked={chosen.includes(u.id)}
              onChange={() =>
                onChange({
                  ...act,
                  colleagues: chosen.includes(u.id) ? chosen.filter((c) => c !== u.id) : [...chosen, u.id],
                })
              }
            />
            {u.name}
          </label>
        ))}
      </div>
    </fieldset>
  );
}

/** Whether a letter goes also to who had one like it. */
function AgainField({ act, onChange }: Part) {
  return (
    <label className="flex items-baseline gap-2 sm:col-span-2">
      <input
        type="checkbox"
        checked={act.again ?? false}
        onChange={(e) => {
          const { again: _, ...rest } = act;
          onChange(e.target.checked ? { ...rest, again: true } : rest);
        }}
      />
      <span>
        Also to people who had this template in the last 90 days, or a letter from another standing order today
      </span>
    </label>
  );
}

function PlanField({ act, onChange }: Part) {
  const plans = $api.useQuery("get", "/api/plans").data ?? [];
  const shown = plans.filter((p) => act.do === "stop" || (p.state === "ready" && p.mayUse) || p.id === act.planId);
  return (
    <label className="block">
      <span className="block text-sm text-ink-soft">Plan</span>
      <select
        value={act.planId ?? ""}
        onChange={(e) => {
          const { planId: _, ...rest } = act;
          onChange(e.target.value ? { ...rest, planId: Number(e.target.value) } : rest);
        }}
        className={line}
      >
        <option value="">{act.do === "stop" ? "every plan of mine that they are on" : "choose …"}</option>
        {shown.map((p) => (
          <option key={p.id} value={p.id}>
            {p.name}
          </option>
        ))}
      </select>
    </label>
  );
}

function TaskFields({ act, onChange }: Part) {
  return (
    <>
      <TaskKind value={act.task ?? ""} onChange={(task) => onChange({ ...act, task })} />
      <Input
        label="What is to be done"
        hint="Fields in double braces are filled, such as {{person.first_name}}."
        className="sm:col-span-2"
        value={act.words ?? ""}
        onChange={(e) => onChange({ ...act, words: e.target.value })}
      />
      <Input
        label="Due after how many days"
        type="number"
        min={0}
        max={365}
        value={String(act.days ?? 0)}
        onChange={(e) => onChange({ ...act, days: Math.max(0, Math.min(365, Math.round(Number(e.target.value)))) })}
      />
    </>
  );
}

function SetField({ act, deal, onChange }: Part & { deal: boolean }) {
  const people = useChangeable();
  const all = $api.useQuery("get", "/api/fields").data ?? [];
  const ofDeals = deal ? all.filter((f) => f.record === "deal" && f.home && f.type !== "money") : [];
  const fields = [...ofDeals, ...people];
  const field = fields.find((f) => f.path === act.path);
  return (
    <>
      <FieldSelect
        label="Field"
        fields={fields}
        none="choose …"
        value={act.path ?? ""}
        onChange={(path) => onChange({ ...act, path, value: "" })}
      />
      {field && (
        <div>
          <span className="block text-sm text-ink-soft">to</span>
          <ValueInput
            key={field.path}
            label={`${field.name}, new value`}
            type={field.type}
            choices={field.choices}
            value={act.value ?? ""}
            autoFocus={false}
            onTyped={(value) => onChange({ ...act, value })}
            onDone={(value) => onChange({ ...act, value })}
          />
        </div>
      )}
    </>
  );
}
