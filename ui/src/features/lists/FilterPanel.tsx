import { Plus, X } from "lucide-react";
import { useEffect, useEffectEvent, useRef, useState } from "react";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import {
  type Condition,
  emptyGroup,
  emptyTest,
  type FilterField,
  type Group,
  type Mode,
  type Node,
  needsValue,
  toExpr,
  toGroup,
  wordsOfOp,
} from "./tree";

type User = { id: number; name: string };
const look = "min-h-8 border-b border-rule-strong bg-sheet py-0.5 outline-none focus:border-main";

type Props = {
  /** The filter as it stands in the address, and its tree. */
  text: string;
  tree: Schemas["Expr"] | undefined;
  onFilter: (text: string) => void;
};

/** Puts a filter together: every change that says something is looked up at once. */
export function FilterPanel({ text, tree, onFilter }: Props) {
  const fields = $api.useQuery("get", "/api/filter/fields").data ?? [];
  const users = $api.useQuery("get", "/api/colleagues").data?.users ?? [];
  const [root, setRoot] = useState<Group>(() => {
    const first = tree ? toGroup(tree) : emptyGroup;
    return first.items.length > 0 ? first : { ...emptyGroup, items: [emptyTest] };
  });
  const [problem, setProblem] = useState("");
  const latest = useRef(text); // that this panel asked for, or took over
  // Another filter stands in the address: a list was opened, or somebody went back.
  if (tree && text !== latest.current) {
    latest.current = text;
    setRoot(toGroup(tree));
  }
  const look_ = useEffectEvent(async (now: Group) => {
    const expr = toExpr(now);
    if (!expr) {
      setProblem("");
      if (latest.current !== "") {
        latest.current = "";
        onFilter("");
      }
      return;
    }
    const { data, error } = await api.POST("/api/filter", { body: { tree: expr } }).catch(noAnswer);
    setProblem(data ? "" : wordsOf(error));
    if (!data || data.text === latest.current) return;
    latest.current = data.text;
    onFilter(data.text);
  });
  const begun = useRef(false);
  useEffect(() => {
    if (!begun.current) {
      begun.current = true;
      return;
    }
    const timer = setTimeout(() => void look_(root), 250);
    return () => clearTimeout(timer);
  }, [root]);
  return (
    <section aria-label="Filter" className="border-t border-rule bg-sheet px-4 py-3 sm:px-6">
      <GroupLines word="People who fit" group={root} fields={fields} users={users} onChange={setRoot} />
      {problem && (
        <p role="alert" className="mt-2 text-sm text-stop">
          {problem}
        </p>
      )}
    </section>
  );
}

type GroupProps = {
  group: Group;
  fields: FilterField[];
  users: User[];
  /** What goes before the group: how it goes together with those beside it. */
  word: string;
  deep?: number;
  onChange: (group: Group) => void;
  onRemove?: () => void;
};

const modes: [Mode, string][] = [
  ["all", "all of these"],
  ["any", "any of these"],
  ["none", "none of these"],
];

function GroupLines({ group, fields, users, word, deep = 1, onChange, onRemove }: GroupProps) {
  const set = (i: number, n: Node) => onChange({ ...group, items: group.items.map((x, j) => (j === i ? n : x)) });
  const remove = (i: number) => onChange({ ...group, items: group.items.filter((_, j) => j !== i) });
  const add = (n: Node) => onChange({ ...group, items: [...group.items, n] });
  return (
    <div className={deep > 1 ? "border-l-3 border-rule pl-3" : ""}>
      <p className="flex items-center gap-2 py-0.5 text-sm">
        {word}
        <select
          aria-label="How the conditions go together"
          value={group.mode}
          onChange={(e) => onChange({ ...group, mode: e.target.value as Mode })}
          className={look}
        >
          {modes.map(([mode, name]) => (
            <option key={mode} value={mode}>
              {name}
            </option>
          ))}
        </select>
        {onRemove && <Remove label="Remove the group" onClick={onRemove} />}
      </p>
      <ul className="space-y-1">
        {group.items.map((n, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: conditions have no other identity, and keep their order
          <li key={i}>
            {n.kind === "group" ? (
              <GroupLines
                group={n}
                fields={fields}
                users={users}
                word={i === 0 ? "" : group.mode === "all" ? "and" : "or"}
                deep={deep + 1}
                onChange={(g) => set(i, g)}
                onRemove={() => remove(i)}
              />
            ) : (
              <TestLine test={n} fields={fields} users={users} onChange={(t) => set(i, t)} onRemove={() => remove(i)} />
            )}
          </li>
        ))}
      </ul>
      <p className="mt-1 flex gap-1">
        <Button look="quiet" className="px-1! text-sm" onClick={() => add(emptyTest)}>
          <Plus size={14} aria-hidden /> Condition
        </Button>
        {deep < 5 && (
          <Button
            look="quiet"
            className="px-1! text-sm"
            onClick={() => add({ kind: "group", mode: "any", items: [emptyTest] })}
          >
            <Plus size={14} aria-hidden /> Group
          </Button>
        )}
      </p>
    </div>
  );
}

function Remove({ label, onClick }: { label: string; onClick: () => void }) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      onClick={onClick}
      className="p-1 text-ink-soft hover:text-stop"
    >
      <X size={15} aria-hidden />
    </button>
  );
}

type TestProps = {
  test: Condition;
  fields: FilterField[];
  users: User[];
  onChange: (test: Condition) => void;
  onRemove: () => void;
};

/** One condition, read from left to right. */
function TestLine({ test, fields, users, onChange, onRemove }: TestProps) {
  const field = fields.find((f) => f.path === test.field);
  const groups = new Map<string, FilterField[]>();
  for (const f of fields) {
    const name = groupOf(f.path);
    groups.set(name, [...(groups.get(name) ?? []), f]);
  }
  return (
    <div className="flex flex-wrap items-center gap-2">
      <select
        aria-label="Field"
        value={test.field}
        onChange={(e) => {
          const next = fields.find((f) => f.path === e.target.value);
          onChange({ ...test, field: e.target.value, op: next?.ops[0] ?? "", value: "" });
        }}
        className={`max-w-56 ${look}`}
      >
        <option value="">choose …</option>
        {[...groups].map(([name, list]) => (
          <optgroup key={name} label={name}>
            {list.map((f) => (
              <option key={f.path} value={f.path}>
                {f.label}
              </option>
            ))}
          </optgroup>
        ))}
        {test.field && !field && fields.length > 0 && <option value={test.field}>{test.field} (deleted)</option>}
      </select>
      {field && (
        <select
          aria-label="Comparison"
          value={test.op}
          onChange={(e) => {
            const same = dayKind(e.target.value) === dayKind(test.op);
            onChange({ ...test, op: e.target.value, value: same ? test.value : "" });
          }}
          className={look}
        >
          {field.ops.map((op) => (
            <option key={op} value={op}>
              {wordsOfOp(op, field.kind)}
            </option>
          ))}
        </select>
      )}
      {field && needsValue(test.op) && (
        <ValueOf field={field} test={test} users={users} onValue={(value) => onChange({ ...test, value })} />
      )}
      <Remove label="Remove the condition" onClick={onRemove} />
    </div>
  );
}

/** What is typed for a comparison: days, a date, or a value. */
const dayKind = (op: string) =>
  op.endsWith("last") || op.endsWith("next") ? "days" : op === "before" || op === "after" ? "date" : "value";

function groupOf(path: string): string {
  const record = path.split(".")[0] ?? "";
  if (!path.includes(".")) return "Letters and owner";
  return { person: "Person", lead: "Lead", contact: "Contact", company: "Company", deal: "Deals" }[record] ?? record;
}

type ValueProps = { field: FilterField; test: Condition; users: User[]; onValue: (value: string) => void };

function ValueOf({ field, test, users, onValue }: ValueProps) {
  const kind = dayKind(test.op);
  if (kind === "days")
    return (
      <>
        <input
          aria-label="Days"
          type="number"
          min={0}
          max={3650}
          value={test.value}
          onChange={(e) => onValue(e.target.value)}
          className={`w-20 ${look}`}
        />
        <span className="text-sm text-ink-soft">days</span>
      </>
    );
  const list =
    field.kind === "owner"
      ? [["me", "me"], ...users.map((u) => [`${u.id}`, u.name])]
      : field.kind === "choice"
        ? field.choices.map((c) => [c, c])
        : [];
  if (list.length > 0)
    return (
      <select aria-label="Value" value={test.value} onChange={(e) => onValue(e.target.value)} className={look}>
        <option value="">choose …</option>
        {list.map(([value, name]) => (
          <option key={value} value={value}>
            {name}
          </option>
        ))}
      </select>
    );
  return (
    <input
      aria-label="Value"
      type={kind === "date" || field.kind === "day" ? "date" : "text"}
      placeholder={field.kind === "money" ? "12500.00 EUR" : undefined}
      value={test.value}
      onChange={(e) => onValue(e.target.value)}
      className={`w-44 ${look}`}
    />
  );
}
