import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas } from "../../api/client";

export type Report = Schemas["ImportReport"];
export type Kind = "lead" | "contact";
export type How = Report["tidyings"][number]["how"];

/** What somebody chose for a file. */
export type Choice = {
  kind: Kind;
  columns: Record<string, string>;
  answers: Record<string, string>;
  tidy: How[];
};

const nothing: Choice = { kind: "lead", columns: {}, answers: {}, tidy: [] };

async function send(file: File, c: Choice, check: boolean, skip: boolean): Promise<Report> {
  const form = new FormData();
  form.set("file", file);
  const query = new URLSearchParams({
    check: String(check),
    skipRefused: String(skip),
    kind: c.kind,
    columns: JSON.stringify(c.columns),
    answers: JSON.stringify(c.answers),
    tidy: c.tidy.join(","),
  });
  const answer = await fetch(`/api/imports?${query}`, { method: "POST", body: form });
  const body = await answer.json();
  if (!answer.ok) throw body;
  return body as Report;
}

/** Asks how far a long import is until it is done, and tells every answer. */
export async function follow(report: Report, told: (r: Report) => void): Promise<Report> {
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
  return now;
}

/** A file that is looked at, again with every choice, and then imported. */
export function useImport() {
  const queries = useQueryClient();
  const [file, setFile] = useState<File | null>(null);
  const [choice, setChoice] = useState(nothing);
  const [report, setReport] = useState<Report | null>(null);
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const run = async (f: File, c: Choice, check: boolean, skip: boolean) => {
    setBusy(true);
    setError(null);
    try {
      const first = await send(f, c, check, skip);
      setReport(first);
      await follow(first, setReport);
    } catch (e) {
      setError(e);
      setReport(null);
    }
    setBusy(false);
    if (!check) await queries.invalidateQueries();
  };
  return {
    file,
    choice,
    report,
    error,
    busy,
    open: (f: File) => {
      const fresh = { ...nothing, kind: choice.kind };
      setFile(f);
      setChoice(fresh);
      void run(f, fresh, true, false);
    },
    choose: (changes: Partial<Choice>) => {
      const next = { ...choice, ...changes };
      setChoice(next);
      if (file) void run(file, next, true, false);
    },
    write: (skip: boolean) => {
      if (file) void run(file, choice, false, skip);
    },
  };
}

export type Importing = ReturnType<typeof useImport>;
