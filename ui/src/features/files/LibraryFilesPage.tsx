import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { $api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { upload } from "../../api/upload";
import { Button } from "../../components/Button";
import { pathOf } from "../library/folders";

type Plan = Schemas["ArchivePlan"];
type Existing = "skip" | "beside" | "version";

/** Keeps the library as one file, and brings such a file in. */
export function LibraryFilesPage() {
  const folders = $api.useQuery("get", "/api/folders").data?.folders ?? [];
  const [folder, setFolder] = useState(0);
  return (
    <div className="mx-auto max-w-4xl px-3 pt-4 pb-8 sm:px-6">
      <p className="text-sm">
        <Link to="/templates" className="text-main underline">
          Templates
        </Link>
      </p>
      <h1 className="mb-4 font-serif text-2xl font-semibold">Import and export</h1>
      <section aria-label="Export" className="mb-8">
        <h2 className="mb-1 font-semibold">Export</h2>
        <p className="mb-3 text-ink-soft">
          One archive with your templates, folders, passages and pictures. Another copy of Lucid Letter can read it.
        </p>
        <div className="flex flex-wrap items-center gap-4">
          <select
            aria-label="What to export"
            value={folder}
            onChange={(e) => setFolder(Number(e.target.value))}
            className="min-h-9 border-b border-rule-strong bg-transparent"
          >
            <option value={0}>Everything you can see</option>
            {folders.map((f) => (
              <option key={f.id} value={f.id}>
                {pathOf(folders, f.id)}
              </option>
            ))}
          </select>
          <a href={`/api/library/export?folder=${folder}`} download className="text-main underline">
            Export library.zip
          </a>
        </div>
      </section>
      <BringIn />
    </div>
  );
}

function BringIn() {
  const queries = useQueryClient();
  const own = $api.useQuery("get", "/api/fields").data?.filter((f) => f.own) ?? [];
  const [file, setFile] = useState<File>();
  const [plan, setPlan] = useState<Plan>();
  const [existing, setExisting] = useState<Existing>("skip");
  const [fields, setFields] = useState<Record<string, string>>({});
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);
  const send = async (archive: File, check: boolean, now = existing, map = fields) => {
    setBusy(true);
    setProblem("");
    const query = new URLSearchParams({ check: String(check), existing: now, fields: JSON.stringify(map) });
    const { data, error } = await upload<Plan>(`/api/library/import?${query}`, archive).catch(noAnswer);
    setBusy(false);
    if (!data) {
      setProblem(wordsOf(error));
      return;
    }
    setPlan(data);
    if (data.done) await queries.invalidateQueries();
  };
  return (
    <section aria-label="Import">
      <h2 className="mb-1 font-semibold">Import</h2>
      <p className="mb-3 text-ink-soft">You’ll see what will happen first. Nothing is overwritten unless you say so.</p>
      <label className="block">
        <span className="sr-only">The archive</span>
        <input
          type="file"
          accept=".zip"
          disabled={busy}
          onChange={(e) => {
            const chosen = e.target.files?.[0];
            setFile(chosen);
            setPlan(undefined);
            setFields({});
            if (chosen) void send(chosen, true, existing, {});
          }}
        />
      </label>
      {busy && (
        <p aria-live="polite" className="mt-3 text-ink-soft">
          Reading …
        </p>
      )}
      {problem && (
        <p role="alert" className="mt-3 border-l-3 border-stop bg-stop-soft px-3 py-2 text-stop">
          {problem}
        </p>
      )}
      {plan && file && (
        <div className="mt-5">
          {plan.fields.length > 0 && !plan.done && (
            <fieldset className="mb-5">
              <legend className="font-semibold">Custom fields you don’t have</legend>
              {plan.fields.map((f) => (
                <label key={f.path} className="mt-1 flex flex-wrap items-baseline gap-3">
                  <span>
                    {f.label} <code className="text-sm text-ink-soft">{f.path}</code>
                  </span>
                  <select
                    value={fields[f.path] ?? ""}
                    onChange={(e) => {
                      const next = { ...fields, [f.path]: e.target.value };
                      setFields(next);
                      void send(file, true, existing, next);
                    }}
                    className="border-b border-rule-strong bg-transparent"
                  >
                    <option value="">skip it: templates that use it become drafts</option>
                    <option value="create">add the field</option>
                    {f.like.map((path) => (
                      <option key={path} value={path}>
                        it is {own.find((o) => o.path === path)?.label ?? path}
                      </option>
                    ))}
                  </select>
                </label>
              ))}
            </fieldset>
          )}
          {plan.templates.some((t) => t.what === "there") && !plan.done && (
            <fieldset className="mb-5">
              <legend className="font-semibold">Templates with a name you already have</legend>
              {(
                [
                  ["skip", "keep mine and skip theirs"],
                  ["beside", "keep both"],
                  ["version", "add theirs as a new version of mine"],
                ] as [Existing, string][]
              ).map(([value, words]) => (
                <label key={value} className="mr-5 inline-flex items-baseline gap-2">
                  <input
                    type="radio"
                    name="existing"
                    checked={existing === value}
                    onChange={() => {
                      setExisting(value);
                      void send(file, true, value);
                    }}
                    className="accent-main"
                  />
                  {words}
                </label>
              ))}
            </fieldset>
          )}
          <p role="status" className="mb-2 font-semibold">
            {plan.done ? "Done." : "What will happen:"} {summary(plan)}
          </p>
          {!plan.done && (
            <Button look="main" className="mb-4" disabled={busy} onClick={() => send(file, false)}>
              Import
            </Button>
          )}
          <table className="w-full text-sm">
            <thead>
              <tr className="border-b border-rule text-left text-ink-soft">
                <th className="py-1 font-normal">Template or passage</th>
                <th className="py-1 font-normal">Folder</th>
                <th className="py-1 font-normal">{plan.done ? "Did" : "Does"}</th>
              </tr>
            </thead>
            <tbody>
              {[...plan.templates, ...plan.passages].map((t, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: two can have one name
                <tr key={i} className="border-b border-rule align-top">
                  <td className="py-1 pr-3">
                    <span className="font-serif">{t.name}</span>
                    {t.notes.map((n) => (
                      <span key={n} className="block text-advice">
                        {n}
                      </span>
                    ))}
                  </td>
                  <td className="py-1 pr-3 text-ink-soft">{t.folder.join(" / ")}</td>
                  <td className="py-1">{doesWords(t)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {plan.done && (
            <p className="mt-3">
              <Link to="/templates" className="text-main underline">
                Go to templates
              </Link>
            </p>
          )}
        </div>
      )}
    </section>
  );
}

function doesWords(t: Schemas["ArchiveItem"]): string {
  if (t.what === "same") return "already here, unchanged";
  return {
    add: "will be added",
    skip: "will be skipped",
    beside: "will be added beside yours",
    version: "will become the newest version",
  }[t.does];
}

function summary(plan: Plan): string {
  const n = plan.templates.filter((t) => t.does !== "skip").length;
  const p = plan.passages.filter((t) => t.does !== "skip").length;
  return `${n} of ${plan.templates.length} templates and ${p} of ${plan.passages.length} passages will be imported.`;
}
