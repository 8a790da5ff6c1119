import { $api, type Schemas } from "../../api/client";
import { Input } from "../../components/Input";
import { ValueInput } from "../../components/ValueInput";
import { FieldSelect, useChangeable } from "../fields/FieldSelect";

type After = Schemas["RoundAfter"];

/** What happens when a letter of a round went out: a field is set, a task is made. */
export function AfterFields({ after, onChange }: { after: After; onChange: (after: After) => void }) {
  const fields = useChangeable();
  const plans = ($api.useQuery("get", "/api/plans").data ?? []).filter(
    (p) => (p.state === "ready" && p.mayUse) || p.id === after.plan,
  );
  const field = fields.find((f) => f.path === after.path);
  return (
    <fieldset>
      <legend className="mb-1 font-semibold">When a letter has gone out</legend>
      <div className="grid gap-x-6 gap-y-3 sm:grid-cols-2">
        <FieldSelect
          label="Set a field"
          fields={fields}
          none="none"
          value={after.path ?? ""}
          onChange={(path) => onChange({ ...after, path, value: "" })}
        />
        {field && (
          <div>
            <span className="block text-sm text-ink-soft">to</span>
            <ValueInput
              key={field.path}
              label={`${field.name}, afterwards`}
              type={field.type}
              choices={field.choices}
              value={after.value ?? ""}
              autoFocus={false}
              onTyped={(value) => onChange({ ...after, value })}
              onDone={(value) => onChange({ ...after, value })}
            />
          </div>
        )}
        <Input
          label="Make a task"
          hint="For whoever sends the round, such as “Call if there is no answer”. Leave it empty for none."
          value={after.task ?? ""}
          onChange={(e) => onChange({ ...after, task: e.target.value })}
        />
        <label className="block">
          <span className="block text-sm text-ink-soft">Start a plan with each of them</span>
          <select
            value={after.plan ?? 0}
            onChange={(e) => onChange({ ...after, plan: Number(e.target.value) })}
            className="min-h-9 w-full border-b border-rule-strong bg-sheet"
          >
            <option value={0}>none</option>
            {plans.map((p) => (
              <option key={p.id} value={p.id}>
                {p.name}
              </option>
            ))}
          </select>
        </label>
        {after.task && (
          <Input
            label="Due after how many days"
            type="number"
            min={0}
            max={365}
            value={String(after.days ?? 0)}
            onChange={(e) =>
              onChange({ ...after, days: Math.max(0, Math.min(365, Math.round(Number(e.target.value)))) })
            }
          />
        )}
      </div>
    </fieldset>
  );
}
