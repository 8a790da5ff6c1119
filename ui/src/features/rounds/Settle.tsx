import { ChevronDown, ChevronRight } from "lucide-react";
import { useState } from "react";
import { api, type Schemas } from "../../api/client";
import { Button } from "../../components/Button";
import { figures, plural } from "../../components/plural";
import { ValueInput } from "../../components/ValueInput";
import { BasisDialog } from "./BasisDialog";
import { PasteTable } from "./PasteTable";
import type { Shown } from "./useMembers";
import type { Acting, InOrder } from "./useRound";
import type { Round } from "./words";

type Props = { round: Round; shown: Shown; act: Acting; inOrder: InOrder };

/** What can be settled for all alike: blanks, values that several lack, and why people are skipped. */
export function Settle({ round, shown, act, inOrder }: Props) {
  const { asks, missing, reasons } = round;
  const open = asks.filter((a) => !a.value && !a.optional).length;
  const todo = open + missing.filter((m) => m.count > 0).length + reasons.length;
  const [shut, setShut] = useState(() => window.innerWidth < 640);
  const [pasting, setPasting] = useState(false);
  if (round.state === "done" || round.state === "stopped" || asks.length + missing.length + reasons.length === 0)
    return null;
  return (
    <section aria-label="For all alike" className="border-b border-rule bg-ground">
      <div className="flex flex-wrap items-center gap-x-4 px-4 py-1.5 sm:px-6">
        <button
          type="button"
          aria-expanded={!shut}
          onClick={() => setShut(!shut)}
          className="inline-flex items-center gap-1 font-semibold"
        >
          {shut ? <ChevronRight size={16} aria-hidden /> : <ChevronDown size={16} aria-hidden />}
          For all alike
        </button>
        <span className="text-sm text-ink-soft">{todo === 0 ? "nothing left to settle" : plural(todo, "thing")}</span>
        {asks.length > 0 && (
          <Button look="quiet" className="ml-auto px-1! text-sm" onClick={() => setPasting(true)}>
            Fill from a table
          </Button>
        )}
      </div>
      {!shut && (
        <ul className="grid max-h-48 gap-x-8 overflow-auto px-4 pb-2 sm:px-6 xl:grid-cols-2">
          {asks.map((a) => (
            <AskLine key={a.path} round={round} ask={a} inOrder={inOrder} />
          ))}
          {missing.map((m) => (
            <LackLine key={m.path} round={round} lack={m} shown={shown} act={act} inOrder={inOrder} />
          ))}
          {reasons.map((r) => (
            <ReasonLine key={r.code} round={round} reason={r} shown={shown} act={act} />
          ))}
        </ul>
      )}
      {pasting && <PasteTable round={round} act={act} onClose={() => setPasting(false)} />}
    </section>
  );
}

const line = "flex min-h-8 flex-wrap items-baseline gap-x-3 gap-y-0.5 border-t border-rule py-1";

function useFill(round: Round, inOrder: InOrder) {
  return (path: string, value: string) =>
    inOrder((version) =>
      api.POST("/api/rounds/{id}/fill", {
        params: { path: { id: round.id }, query: { version } },
        body: { path, value },
      }),
    );
}

/** A blank that is answered once for everybody. */
function AskLine({ round, ask, inOrder }: { round: Round; ask: Schemas["AskOut"]; inOrder: InOrder }) {
  const fill = useFill(round, inOrder);
  const [editing, setEditing] = useState(false);
  const type = { long: "long", date: "date", number: "number" }[ask.kind] ?? "text";
  return (
    <li className={line}>
      <span className={ask.value || ask.optional ? "" : "font-semibold text-advice"}>{ask.label}</span>
      <span className="min-w-40 flex-1">
        {ask.value && !editing ? (
          <>
            “{ask.value.length > 80 ? `${ask.value.slice(0, 80)} …` : ask.value}”{" "}
            <button type="button" className="text-sm text-main underline" onClick={() => setEditing(true)}>
              Change
            </button>
          </>
        ) : (
          <ValueInput
            label={`${ask.label}, for everybody`}
            type={type}
            choices={ask.choices}
            value={ask.value}
            autoFocus={editing}
            onDone={(value) => {
              setEditing(false);
              if (value.trim() !== ask.value) void fill(ask.path, value);
            }}
            {...(editing && { onCancel: () => setEditing(false) })}
          />
        )}
      </span>
      <span className="text-sm text-ink-soft">
        {ask.hint || (ask.optional ? "may stay empty" : "asked once for everybody")}
      </span>
    </li>
  );
}

type LackProps = { round: Round; lack: Schemas["Lack"]; shown: Shown; act: Acting; inOrder: InOrder };

/** A value that several people lack: filled in all their letters, or on their records. */
function LackLine({ round, lack, shown, act, inOrder }: LackProps) {
  const fill = useFill(round, inOrder);
  const [typed, setTyped] = useState("");
  const [record, setRecord] = useState(false);
  const put = async () => {
    if (!typed.trim()) return;
    const ok = record
      ? await act(
          api.POST("/api/rounds/{id}/records", {
            params: { path: { id: round.id } },
            body: { missing: lack.path, path: lack.path, value: typed },
          }),
          (out: Schemas["DoneOut"]) => `Saved on ${plural(out.people, "record")}.`,
        )
      : await fill(lack.path, typed);
    if (ok) setTyped("");
  };
  if (lack.value)
    return (
      <li className={line}>
        <span>{lack.label}</span>
        <span className="flex-1">where it is missing: “{lack.value}”</span>
        <button type="button" className="text-sm text-main underline" onClick={() => void fill(lack.path, "")}>
          Take it back
        </button>
        {lack.count > 0 && <Alike shown={shown} missing={lack.path} n={lack.count} />}
      </li>
    );
  return (
    <li className={line}>
      <span className="font-semibold text-stop">{lack.label}</span>
      <span className="text-sm">
        is missing in <Alike shown={shown} missing={lack.path} n={lack.count} words="letter" />
      </span>
      <form
        className="flex min-w-48 flex-1 flex-wrap items-baseline gap-x-3"
        onSubmit={(e) => {
          e.preventDefault();
          void put();
        }}
      >
        <span className="min-w-28 flex-1">
          <ValueInput
            key={lack.count}
            label={`${lack.label}, for all who lack it`}
            type={lack.type}
            choices={lack.choices}
            value=""
            autoFocus={false}
            onTyped={setTyped}
            onDone={(v) => {
              setTyped(v);
              if (lack.choices.length === 0) void put();
            }}
          />
        </span>
        {lack.storable && (
          <label className="flex items-center gap-1 text-sm text-ink-soft">
            <input
              type="checkbox"
              className="accent-main"
              checked={record}
              onChange={(e) => setRecord(e.target.checked)}
            />
            on the records
          </label>
        )}
        <Button type="submit" disabled={!typed.trim()}>
          Fill in all {figures.format(lack.count)}
        </Button>
      </form>
    </li>
  );
}

/** Why people are skipped, with what can be done for all of them. */
function ReasonLine(props: { round: Round; reason: Schemas["ReasonGroup"]; shown: Shown; act: Acting }) {
  const { round, reason: r, shown, act } = props;
  const [basis, setBasis] = useState(false);
  const done = (what: "allow" | "newer" | "aside", said: (out: Schemas["DoneOut"]) => string) =>
    act(
      api.POST("/api/rounds/{id}/do", { params: { path: { id: round.id } }, body: { act: what, reason: r.code } }),
      said,
    );
  return (
    <li className={line}>
      <span className="text-advice">{r.words}</span>
      <span className="flex-1 text-sm">
        <Alike shown={shown} reason={r.code} n={r.count} />
        <span className="text-ink-soft"> skipped</span>
      </span>
      {r.code === "nobasis" && (
        <Button onClick={() => setBasis(true)}>
          Set the basis for {r.count === 1 ? "them" : `all ${figures.format(r.count)}`}
        </Button>
      )}
      {r.code === "twin" && (
        <Button onClick={() => void done("newer", () => "The newer record of each pair gets the letter.")}>
          Take the newer of the two
        </Button>
      )}
      {r.overruled && r.code !== "nobasis" && (
        <Button
          onClick={() =>
            void done("allow", (out) => `${plural(out.people, "person gets", "people get")} the letter all the same.`)
          }
        >
          Write all the same
        </Button>
      )}
      {basis && <BasisDialog round={round} count={r.count} act={act} onClose={() => setBasis(false)} />}
    </li>
  );
}

/** Narrows the list to those alike. */
function Alike(props: { shown: Shown; reason?: string; missing?: string; n: number; words?: string }) {
  const { shown, reason = "", missing = "", n, words = "person" } = props;
  return (
    <button
      type="button"
      className="text-main underline"
      onClick={() => shown.set({ reason, missing, group: "", person: "", q: "" })}
    >
      {words === "person" ? plural(n, "person", "people") : plural(n, words)}
    </button>
  );
}
