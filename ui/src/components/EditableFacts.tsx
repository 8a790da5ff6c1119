import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { toast } from "sonner";
import { api, noAnswer, type Schemas, statusOf, wordsOf } from "../api/client";
import { Button } from "./Button";
import { plural } from "./plural";
import { ValueInput } from "./ValueInput";

type Field = Schemas["RecordField"];

/** Whether a value was stored: yes, no, or not since somebody else changed it meanwhile. */
export type Stored = boolean | "changed";

/** One value of a record, changed in its place. When somebody else changed it meanwhile, both
 * values are there until one is chosen. */
export function EditableFact({ field, onSave }: { field: Field; onSave: (value: string) => Promise<Stored> }) {
  const [editing, setEditing] = useState(false);
  const [busy, setBusy] = useState(false);
  const [asTyped, setAsTyped] = useState<string>(); // that was refused, to be corrected
  const [other, setOther] = useState(false); // somebody else wrote another value meanwhile
  const button = useRef<HTMLButtonElement>(null);
  const close = () => {
    setEditing(false);
    setAsTyped(undefined);
    setOther(false);
  };
  const was = useRef(false);
  useEffect(() => {
    // Where a person would go on: at the value, not at the top of the page.
    const here = document.activeElement;
    if (was.current && !editing && (here === document.body || here?.id === "sheet")) button.current?.focus();
    was.current = editing;
  }, [editing]);
  const save = async (value: string) => {
    if (value === field.value) return close();
    setBusy(true);
    const stored = await onSave(value);
    setBusy(false);
    setOther(stored === "changed");
    if (stored === true) close();
    else setAsTyped(value);
  };
  if (editing && other && asTyped !== undefined)
    return <Both field={field} mine={asTyped} busy={busy} onMine={() => void save(asTyped)} onTheirs={close} />;
  if (editing)
    return (
      <ValueInput
        key={asTyped}
        label={field.label}
        type={field.type}
        choices={field.choices}
        value={asTyped ?? field.value}
        busy={busy}
        onDone={(v) => void save(v)}
        onCancel={close}
      />
    );
  return (
    <button
      ref={button}
      type="button"
      aria-label={`${field.label}: ${field.shown || "empty"}, change`}
      title={field.shown}
      onClick={() => setEditing(true)}
      className={`-mx-1 block max-w-full rounded-sm px-1 text-left hover:bg-main-soft ${field.type === "long" ? "line-clamp-4 whitespace-pre-line" : "truncate"} ${field.shown ? "" : "text-ink-soft"}`}
    >
      {field.shown || "add"}
    </button>
  );
}

type BothProps = { field: Field; mine: string; busy: boolean; onMine: () => void; onTheirs: () => void };

/** Two values of which one is chosen: mine, and the one that somebody else wrote meanwhile. */
function Both({ field, mine, busy, onMine, onTheirs }: BothProps) {
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: Esc works as the second button does
    <div
      className="text-sm"
      onKeyDown={(e) => {
        if (e.key !== "Escape") return;
        e.preventDefault();
        e.stopPropagation();
        onTheirs();
      }}
    >
      <p role="alert" className="text-advice">
        Somebody else {field.shown ? `wrote “${field.shown}”` : "cleared this"} meanwhile. You wrote “
        {mine || "nothing"}”.
      </p>
      <Button look="quiet" className="mt-1 px-1!" disabled={busy} autoFocus onClick={onMine}>
        Save mine
      </Button>
      <Button look="quiet" className="px-1!" disabled={busy} onClick={onTheirs}>
        Keep theirs
      </Button>
    </div>
  );
}

/** The values of a deal, a company or a team, each changed in its place. Empty ones are shown when asked for. */
export function EditableFacts(props: {
  kind: "deal" | "company" | "team";
  id: number;
  fields: Field[];
  readOnly?: boolean;
  /** Shows the empty ones too. */
  whole?: boolean;
  /** Called when somebody else changed a value since, and after each change. */
  onChange: () => Promise<unknown>;
}) {
  const queries = useQueryClient();
  const [all, setAll] = useState(props.whole ?? false);
  const shown = all ? props.fields : props.fields.filter((f) => f.value !== "");
  const empty = props.fields.length - shown.length;
  const save = async (f: Field, value: string): Promise<Stored> => {
    const { error } = await api
      .PATCH("/api/records/{kind}/{id}", {
        params: { path: { kind: props.kind, id: props.id } },
        body: { path: f.path, was: f.value, value },
      })
      .catch(noAnswer);
    if (error && statusOf(error) !== 409) {
      toast.error(wordsOf(error));
      return false;
    }
    await props.onChange();
    await queries.invalidateQueries({ queryKey: ["get", "/api/history"] });
    return error ? "changed" : true;
  };
  return (
    <>
      <dl
        className={`mt-3 grid gap-x-6 gap-y-2 ${props.whole ? "grid-cols-1 sm:grid-cols-2" : "grid-cols-2 sm:grid-cols-3 lg:grid-cols-5"}`}
      >
        {shown.map((f) => (
          <div key={f.path} className="min-w-0">
            <dt className="text-sm text-ink-soft">{f.label}</dt>
            <dd className={props.readOnly ? "truncate" : ""} title={f.shown}>
              {props.readOnly ? f.shown || "–" : <EditableFact field={f} onSave={(v) => save(f, v)} />}
            </dd>
          </div>
        ))}
      </dl>
      {empty > 0 && !props.readOnly && (
        <Button look="quiet" className="mt-1 -ml-3" onClick={() => setAll(true)}>
          {plural(empty, "empty field")}
        </Button>
      )}
    </>
  );
}
