import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { $api, type Schemas } from "../../api/client";
import { Button } from "../../components/Button";
import { ProblemText } from "../../components/ProblemText";
import { plural } from "../../components/plural";
import { Tabs } from "../../components/Tabs";

type Report = Schemas["ImportReport"];
type Kind = "lead" | "contact";
type Answers = Record<string, string>;
type Choice = { check: boolean; skip: boolean; kind: Kind; columns: Record<string, string>; answers: Answers };

async function send(file: File, c: Choice): Promise<Report> {
  const form = new FormData();
  form.set("file", file);
  const query = new URLSearchParams({
    check: String(c.check),
    skipRefused: String(c.skip),
    kind: c.kind,
    columns: JSON.stringify(c.columns),
    answers: JSON.stringify(c.answers),
  });
  const answer = await fetch(`/api/imports?${query}`, { method: "POST", body: form });
  const body = await answer.json();
  if (!answer.ok) throw body;
  return body as Report;
}

/** Asks how far a long import is until it is written, and tells every answer. */
async function follow(report: Report, told: (r: Report) => void): Promise<void> {
  let now = report;
  while (now.running) {
    await new Promise((go) => setTimeout(go, 500));
    const answer = await fetch(`/api/imports/${report.id}`);
    const body = await answer.json();
    if (answer.status === 503) continue; // the server is busy with it
    if (!answer.ok) throw body;
    now = body as Report;
    told(now);
  }
}

/** Brings people in from a file: first what would happen, then the doing. */
export function ImportPage() {
  const queries = useQueryClient();
  const [file, setFile] = useState<File | null>(null);
  const [kind, setKind] = useState<Kind>("lead");
  const [columns, setColumns] = useState<Record<string, string>>({});
  const [answers, setAnswers] = useState<Answers>({});
  const [skip, setSkip] = useState(false);
  const [report, setReport] = useState<Report | null>(null);
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);

  const run = async (f: File, c: Choice) => {
    setBusy(true);
    setError(null);
    try {
      const first = await send(f, c);
      setReport(first);
      await follow(first, setReport);
      if (!c.check) await queries.invalidateQueries();
    } catch (e) {
      setError(e);
      setReport(null);
    }
    setBusy(false);
  };
  const look = (f: File, k: Kind, cols: Record<string, string>, said: Answers) =>
    run(f, { check: true, skip: false, kind: k, columns: cols, answers: said });

  return (
    <div className="mx-auto max-w-3xl px-4 py-6 sm:px-6">
      <h1 className="font-serif text-2xl font-semibold">Import people</h1>
      <p className="mt-1 text-ink-soft">
        Use a CSV file with a header row and one person per line, or contacts saved as vCards (.vcf). People with an
        email address you already have are updated; everybody else is added. You’ll see what will happen first.
      </p>
      <div className="mt-5 flex flex-wrap items-center gap-4">
        <label className="inline-flex min-h-8 cursor-pointer items-center rounded-sm border border-main px-3 font-semibold text-main has-focus-visible:outline-2 has-focus-visible:outline-main">
          {file ? `${file.name} · choose another file` : "Choose a CSV file"}
          <input
            type="file"
            accept=".csv,.tsv,.txt,.vcf,text/csv,text/vcard"
            className="sr-only"
            onChange={(e) => {
              const f = e.target.files?.[0];
              e.target.value = "";
              if (!f) return;
              setFile(f);
              setColumns({});
              setAnswers({});
              look(f, kind, {}, {});
            }}
          />
        </label>
        <div className="flex items-center gap-3">
          <span aria-hidden className="text-ink-soft">
            New people are
          </span>
          <Tabs
            label="New people are"
            choices={[
              ["lead", "leads"],
              ["contact", "contacts"],
            ]}
            value={kind}
            onChange={(k) => {
              setKind(k);
              if (file) look(file, k, columns, answers);
            }}
          />
        </div>
      </div>
      <div className="mt-5 space-y-4" aria-live="polite">
        {busy && !report?.running && <p className="text-ink-soft">Reading the file …</p>}
        {report?.running && (
          <p role="status">
            {report.written.toLocaleString("en-GB")} of {plural(report.toWrite, "person", "people")} written. You can
            leave this page; the import goes on.
          </p>
        )}
        <ProblemText error={error} />
        {report && !report.done && !report.running && (
          <>
            <Columns
              report={report}
              onChange={(header, path) => {
                const next = { ...columns, [header]: path };
                setColumns(next);
                if (file) look(file, kind, next, answers);
              }}
            />
            <Counts report={report} />
            <Asks
              asks={report.asks}
              onAnswer={(key, answer) => {
                const next = { ...answers, [key]: answer };
                setAnswers(next);
                if (file) look(file, kind, columns, next);
              }}
            />
            {report.refused + report.asked > 0 && (
              <label className="flex items-center gap-2">
                <input type="checkbox" checked={skip} onChange={(e) => setSkip(e.target.checked)} /> Skip these rows and
                import the others
              </label>
            )}
            <Button
              look="main"
              disabled={
                busy ||
                report.columns.some((c) => c.problem) ||
                report.created + report.updated === 0 ||
                (report.refused + report.asked > 0 && !skip)
              }
              onClick={() => file && run(file, { check: false, skip, kind, columns, answers })}
            >
              Import {plural(report.created + report.updated, "person", "people")}
            </Button>
          </>
        )}
        {report?.done && (
          <div className="border-l-3 border-ok bg-main-soft px-3 py-2" role="status">
            <p className="font-semibold">
              {report.created} added, {report.updated} updated, {report.same} already the same
              {report.refused + report.asked + report.skipped
                ? `, ${report.refused + report.asked + report.skipped} skipped`
                : ""}
              .
            </p>
            <p>
              <Link className="text-main underline" to="/people?sort=created&down=true">
                See them in People, newest first
              </Link>
            </p>
          </div>
        )}
      </div>
    </div>
  );
}

function Counts({ report }: { report: Report }) {
  return (
    <section aria-label="What will happen">
      <p>
        {report.rows} rows: <b>{report.created}</b> would be added, <b>{report.updated}</b> updated, {report.same} are
        already the same, <b className={report.refused ? "text-stop" : ""}>{report.refused}</b> refused
        {report.asked > 0 && (
          <>
            , <b className="text-stop">{report.asked}</b> {report.asked === 1 ? "needs" : "need"} your answer
          </>
        )}
        .
      </p>
      {report.refusals.length > 0 && (
        <ol className="mt-2 max-h-64 overflow-auto border border-rule bg-sheet">
          {report.refusals.map((r) => (
            <li key={r.line} className="flex gap-4 border-b border-rule px-3 py-1.5 last:border-b-0">
              <span className="w-16 shrink-0 text-ink-soft">line {r.line}</span>
              <span className="min-w-0 break-words text-stop">{r.why}</span>
            </li>
          ))}
        </ol>
      )}
    </section>
  );
}

/** Rows whose address belongs to several people, or stands in several rows. */
function Asks({ asks, onAnswer }: { asks: Report["asks"]; onAnswer: (key: string, answer: string) => void }) {
  if (asks.length === 0) return null;
  return (
    <section aria-label="Who is meant?">
      <h2 className="font-semibold">Who is meant?</h2>
      <ol className="mt-1 max-h-80 overflow-auto border border-rule bg-sheet">
        {asks.map((a) => (
          <li key={a.key} className="border-b border-rule px-3 py-2 last:border-b-0">
            <p>
              <span className="mr-3 text-ink-soft">line {a.line}</span>
              <b>{a.who || "No name"}</b>: {a.why}.
            </p>
            <select
              aria-label={`Line ${a.line}: ${a.who || a.email}`}
              value={a.answer}
              onChange={(e) => onAnswer(a.key, e.target.value)}
              className={`mt-1 max-w-full border-b border-rule-strong bg-transparent py-0.5 ${a.answer ? "" : "text-stop"}`}
            >
              {!a.answer && <option value="">Choose …</option>}
              {a.people.map((p) => (
                <option key={p.id} value={p.id}>
                  Update {p.name}
                  {p.about && ` (${p.about})`}
                </option>
              ))}
              <option value="new">Add another person with this address</option>
              <option value="skip">Leave this row out</option>
            </select>
          </li>
        ))}
      </ol>
    </section>
  );
}

function Columns({ report, onChange }: { report: Report; onChange: (header: string, path: string) => void }) {
  const fields = $api.useQuery("get", "/api/fields");
  const usable = (fields.data ?? []).filter((f) => f.import);
  return (
    <section aria-label="Columns">
      <table className="w-full border border-rule bg-sheet text-left">
        <thead className="text-sm text-ink-soft">
          <tr>
            <th className="px-3 py-1 font-normal">Column in the file</th>
            <th className="px-3 py-1 font-normal">Field</th>
          </tr>
        </thead>
        <tbody>
          {report.columns.map((c) => (
            <tr key={`${c.header} ${c.path}`} className="border-t border-rule">
              <td className="px-3 py-1">{c.header || "(no name)"}</td>
              <td className="px-3 py-1">
                <select
                  aria-label={`Field for ${c.header}`}
                  className="max-w-full bg-transparent"
                  value={c.problem ? "" : c.path || "-"}
                  onChange={(e) => onChange(c.header, e.target.value)}
                >
                  {c.problem && <option value="">choose …</option>}
                  <option value="-">skip</option>
                  {usable.map((f) => (
                    <option key={f.path} value={f.path}>
                      {f.label} ({f.record})
                    </option>
                  ))}
                </select>
                {c.problem && <span className="block text-sm text-advice">Choose a field or “skip”.</span>}
                {c.left > 0 && (
                  <span className="block text-sm text-advice">
                    Left out in {plural(c.left, "row")}: leads have no such field. Import them as contacts to keep it.
                  </span>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
