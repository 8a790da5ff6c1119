import { useState } from "react";
import { Link } from "react-router";
import { Button } from "../../components/Button";
import { ProblemText } from "../../components/ProblemText";
import { figures, listOf, plural } from "../../components/plural";
import { Tabs } from "../../components/Tabs";
import { OnNewPeople } from "../orders/OnNewPeople";
import { Columns } from "./Columns";
import { Asks, Counts, Tidyings } from "./Found";
import { PastImports, useImports } from "./PastImports";
import { Progress } from "./Progress";
import { type Importing, type Report, useImport } from "./useImport";

/** Brings people, companies and deals in from a file: first what would happen, then the doing. */
export function ImportPage() {
  const it = useImport();
  const { file, report } = it;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: a file may also be chosen with the button
    <div
      className="mx-auto max-w-4xl px-4 py-6 sm:px-6"
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault();
        const dropped = e.dataTransfer.files[0];
        if (dropped) it.open(dropped);
      }}
    >
      <h1 className="font-serif text-2xl font-semibold">Import people</h1>
      <p className="mt-1 max-w-3xl text-ink-soft">
        Use a CSV file with a header row and one person, company or deal per line, or contacts saved as vCards (.vcf).
        People with an email address you already have are updated; everybody else is added. You’ll see what will happen
        first, and you can undo it later.
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
              if (f) it.open(f);
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
            value={it.choice.kind}
            onChange={(kind) => it.choose({ kind })}
          />
        </div>
      </div>
      <div className="mt-5 space-y-4" aria-live="polite">
        {it.busy && !report?.running && <p className="text-ink-soft">Reading the file …</p>}
        {report?.running && <Progress report={report} words="You can leave this page; the import carries on." />}
        <ProblemText error={it.error} />
        {report && !report.done && !report.running && <Ahead it={it} report={report} />}
        {report?.done && <Done report={report} />}
      </div>
      <PastImports />
    </div>
  );
}

/** What a file would do, and what has to be settled before. */
function Ahead({ it, report }: { it: Importing; report: Report }) {
  const open = report.refused + report.asked;
  // Skipping is agreed to for these rows of this file; when there are others, it is asked again.
  const these = `${it.opened} ${open}`;
  const [agreed, setAgreed] = useState("");
  const skip = agreed === these;
  const people = report.created + report.updated;
  const others = changesOf(report).slice(1);
  return (
    <>
      <Columns it={it} report={report} />
      <Counts report={report} />
      <Asks
        asks={report.asks}
        onAnswer={(key, answer) => it.choose({ answers: { ...it.choice.answers, [key]: answer } })}
      />
      <Tidyings it={it} report={report} />
      {open > 0 && (
        <label className="flex items-center gap-2">
          <input type="checkbox" checked={skip} onChange={(e) => setAgreed(e.target.checked ? these : "")} /> Skip these
          rows and import the others
        </label>
      )}
      <OnNewPeople people={report.created} />
      <Button
        look="main"
        disabled={
          it.busy ||
          report.columns.some((c) => c.problem) ||
          (people === 0 && others.length === 0) ||
          (open > 0 && !skip)
        }
        onClick={() => it.write(skip)}
      >
        Import {people > 0 || others.length === 0 ? plural(people, "person", "people") : listOf(others)}
      </Button>
    </>
  );
}

/** What is written, in words: people first, then companies and deals when there are any. */
function changesOf(r: Report): string[] {
  const companies = r.companies.created + r.companies.updated;
  const deals = r.deals.created + r.deals.updated;
  return [
    plural(r.created + r.updated, "person", "people"),
    ...(companies ? [plural(companies, "company", "companies")] : []),
    ...(deals ? [plural(deals, "deal")] : []),
  ];
}

function Done({ report }: { report: Report }) {
  const now = useImports().data?.find((i) => i.id === report.id);
  const skipped = report.refused + report.asked + report.skipped;
  const others = [...wordsOf(report.companies, "company", "companies"), ...wordsOf(report.deals, "deal", "deals")];
  if (now && now.state !== "done") return null; // the list below tells that it was taken back
  return (
    <div className="border-l-3 border-ok bg-main-soft px-3 py-2" role="status">
      <p className="font-semibold">
        {figures.format(report.created)} added, {figures.format(report.updated)} updated, {figures.format(report.same)}{" "}
        already the same
        {skipped ? `, ${figures.format(skipped)} skipped` : ""}.{others.length > 0 && ` ${listOf(others)}.`}
      </p>
      <p>
        <Link className="text-main underline" to="/people?sort=created&down=true">
          See them in People, newest first
        </Link>
      </p>
    </div>
  );
}

function wordsOf(c: Report["deals"], one: string, many: string): string[] {
  return [
    ...(c.created ? [`${plural(c.created, one, many)} added`] : []),
    ...(c.updated ? [`${plural(c.updated, one, many)} updated`] : []),
  ];
}
