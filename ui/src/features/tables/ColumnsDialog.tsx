import { ArrowDown, ArrowUp, X } from "lucide-react";
import { useRef, useState } from "react";
import { $api } from "../../api/client";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import type { Column, TableParams } from "./useTableParams";

/** How many columns a table has at most. */
const most = 24;

type Props = { table: TableParams; columns: Column[]; onClose: () => void };

/** Which columns a table has, in which order. What is done here is seen at once. */
export function ColumnsDialog({ table, columns, onClose }: Props) {
  const can = $api.useQuery("get", "/api/columns/{of}", { params: { path: { of: table.of } } }).data ?? [];
  const [list, setList] = useState(columns);
  const [said, setSaid] = useState("");
  const items = useRef<HTMLOListElement>(null);
  const change = (next: Column[], words: string) => {
    setList(next);
    setSaid(words);
    table.choose(next);
  };
  const move = (i: number, by: number) => {
    const next = [...list];
    const [one] = next.splice(i, 1);
    const to = i + by;
    if (!one || to < 0 || to > next.length) return;
    next.splice(to, 0, one);
    change(next, `${one.label} is column ${to + 1} of ${next.length}.`);
    // The focus goes with the column.
    requestAnimationFrame(() =>
      items.current?.children[to]?.querySelector<HTMLButtonElement>(`button[data-by="${by}"]`)?.focus(),
    );
  };
  const rest = can.filter((f) => !list.some((c) => c.path === f.path));
  return (
    <Modal
      title="Columns"
      onClose={onClose}
      foot={
        <>
          <Button
            look="quiet"
            onClick={() => {
              table.choose([]);
              onClose();
            }}
          >
            Show the usual columns
          </Button>
          <Button look="main" className="ml-auto" onClick={onClose}>
            Done
          </Button>
        </>
      }
    >
      <p className="sr-only" role="status">
        {said}
      </p>
      <ol ref={items} className="border border-rule" aria-label="Columns that are shown">
        {list.map((c, i) => (
          <li key={c.path} className="flex items-center gap-1 border-b border-rule px-3 py-0.5 last:border-b-0">
            <span className="mr-auto truncate">{c.label}</span>
            <Icon name={`Move ${c.label} up`} by={-1} off={i === 0} onPress={() => move(i, -1)} />
            <Icon name={`Move ${c.label} down`} by={1} off={i === list.length - 1} onPress={() => move(i, 1)} />
            <button
              type="button"
              aria-label={`Remove ${c.label}`}
              disabled={list.length === 1}
              className="p-2 text-ink-soft hover:text-stop disabled:opacity-40"
              onClick={() =>
                change(
                  list.filter((x) => x.path !== c.path),
                  `${c.label} was removed.`,
                )
              }
            >
              <X size={15} aria-hidden />
            </button>
          </li>
        ))}
      </ol>
      <label className="mt-4 block">
        <span className="block text-sm text-ink-soft">Add a column</span>
        <select
          className="min-h-9 w-full border-b border-rule-strong bg-sheet"
          value=""
          disabled={list.length >= most}
          onChange={(e) => {
            const f = can.find((x) => x.path === e.target.value);
            if (f) change([...list, { ...f, width: 0 }], `${f.label} was added.`);
          }}
        >
          <option value="">{list.length >= most ? `${most} columns are the most` : "choose …"}</option>
          {rest.map((f) => (
            <option key={f.path} value={f.path}>
              {f.label}
            </option>
          ))}
        </select>
      </label>
      <p className="mt-3 text-sm text-ink-soft">
        In the table, drag the right edge of a heading to change its width, or click a heading to sort.
      </p>
    </Modal>
  );
}

function Icon({ name, by, off, onPress }: { name: string; by: 1 | -1; off: boolean; onPress: () => void }) {
  return (
    <button
      type="button"
      data-by={by}
      aria-label={name}
      disabled={off}
      onClick={onPress}
      className="p-2 text-ink-soft hover:text-main disabled:opacity-40"
    >
      {by < 0 ? <ArrowUp size={15} aria-hidden /> : <ArrowDown size={15} aria-hidden />}
    </button>
  );
}
