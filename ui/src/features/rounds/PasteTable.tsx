import { useState } from "react";
import { $api, api, type Schemas } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import { Problem } from "../../components/Problem";
import { plural } from "../../components/plural";
import type { Acting } from "./useRound";
import type { Round } from "./words";

/** What the column fills that tells who a row is about. */
const who = "who";

/** Fills the letters of single people from a pasted table: first what would happen, then it does. */
export function PasteTable({ round, act, onClose }: { round: Round; act: Acting; onClose: () => void }) {
  const [table, setTable] = useState("");
  const [columns, setColumns] = useState<Record<string, string>>({});
  const [seen, setSeen] = useState<Schemas["Pasted"] | null>(null);
  const fields = $api.useQuery("get", "/api/fields").data ?? [];
  const call = (apply: boolean, map: Record<string, string>) =>
    api.POST("/api/rounds/{id}/paste", { params: { path: { id: round.id } }, body: { table, columns: map, apply } });
  const { write, busy, problem } = useWrite((map: Record<string, string>) => call(false, map), setSeen);
  const apply = async () => {
    const ok = await act(call(true, columns), (out: Schemas["Pasted"]) => `${plural(out.filled, "value")} filled in.`);
    if (ok) onClose();
  };
  const map = (header: string, path: string) => {
    const now = (seen?.columns ?? []).map((c) => [c.header, c.header === seen?.who ? who : c.path]);
    const next = { ...Object.fromEntries(now), [header]: path };
    // One column tells who it is: another one that is chosen takes its place.
    if (path === who && seen?.who && seen.who !== header) next[seen.who] = "";
    setColumns(next);
    void write(next);
  };
  return (
    <Modal
      title="Fill letters from a table"
      wide
      onClose={onClose}
      foot={
        <>
          <Problem>{problem}</Problem>
          <span className="ml-auto flex gap-2">
            {seen && <Button onClick={() => setSeen(null)}>Change the table</Button>}
            {seen ? (
              <Button look="main" disabled={busy || seen.filled === 0} onClick={() => void apply()}>
                Fill in {plural(seen.filled, "value")}
              </Button>
            ) : (
              <Button look="main" disabled={busy || !table.trim()} onClick={() => void write(columns)}>
                Look at it
              </Button>
            )}
          </span>
        </>
      }
    >
      {!seen ? (
        <label className="block">
          <span className="mb-2 block text-sm text-ink-soft">
            Copy rows out of your table program and paste them here. The first row names the columns: one with the email
            addresses (or “Name”), the others called like the blanks: {round.asks.map((a) => a.label).join(", ")}.
          </span>
          <textarea
            aria-label="The table"
            rows={10}
            value={table}
            onChange={(e) => setTable(e.target.value)}
            className="w-full border border-rule-strong bg-sheet p-3 font-mono text-sm outline-none focus:border-main"
          />
        </label>
      ) : (
        <div className="text-sm">
          <p className="mb-3" role="status">
            {plural(seen.rows, "row")}, of which {seen.matched} {seen.matched === 1 ? "is" : "are"} about people of this
            round.
            {!seen.who && " Choose below which column tells who each row is about."}
            {seen.lacking > 0 && ` About ${plural(seen.lacking, "person", "people")} there is no row.`}
          </p>
          <table className="mb-4 w-full">
            <thead className="text-left text-ink-soft">
              <tr>
                <th className="border-b border-rule py-1 font-normal">Column</th>
                <th className="border-b border-rule py-1 font-normal">Fills</th>
              </tr>
            </thead>
            <tbody>
              {seen.columns.map((c) => (
                <tr key={c.header}>
                  <td className="border-b border-rule py-1">{c.header}</td>
                  <td className="border-b border-rule py-1">
                    <select
                      aria-label={`What ${c.header} fills`}
                      value={c.header === seen.who ? who : c.path}
                      onChange={(e) => map(c.header, e.target.value)}
                      className="bg-transparent"
                    >
                      <option value="">nothing</option>
                      <option value={who}>tells who it is</option>
                      {round.asks.map((a) => (
                        <option key={a.path} value={a.path}>
                          {a.label} (blank)
                        </option>
                      ))}
                      {fields.map((f) => (
                        <option key={f.path} value={f.path}>
                          {f.name}
                        </option>
                      ))}
                    </select>
                    {c.unused && <span className="ml-2 text-ink-soft">No letter of this round has it in it.</span>}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {seen.known > 0 && (
            <p className="mb-3">
              {plural(seen.known, "value")} {seen.known === 1 ? "stays" : "stay"} as before: the record has one, or the
              letter has this one already.
            </p>
          )}
          <Told title={`${plural(seen.left, "row")} left out`} lines={seen.others} />
          <Told title="Values that do not fit" lines={seen.wrong} />
        </div>
      )}
    </Modal>
  );
}

function Told({ title, lines }: { title: string; lines: string[] }) {
  if (lines.length === 0) return null;
  return (
    <div className="mb-3 border-l-3 border-advice py-1 pl-3">
      <p className="font-semibold">{title}</p>
      <ul>
        {lines.map((l) => (
          <li key={l}>{l}</li>
        ))}
      </ul>
    </div>
  );
}
