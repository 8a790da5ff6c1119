import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
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

async function send(file: File, c: Choice, check: boolean, skip: boolean, signal?: AbortSignal): Promise<Report> {
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
  const answer = await fetch(`/api/imports?${query}`, { method: "POST", body: form, ...(signal && { signal }) });
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
  const [opened, setOpened] = useState(0);
  /** What is being looked at or written. What an earlier one answers is not of this file, or of these choices. */
  const last = useRef<AbortController>(null);
  const run = async (f: File, c: Choice, check: boolean, skip: boolean) => {
    last.current?.abort();
    const mine = new AbortController();
    // What is being written is not given up: another file can be looked at while it goes on.
    last.current = mine;
    const told = (r: Report) => {
      if (last.current === mine) setReport(r);
    };
    setBusy(true);
    setError(null);
    try {
      const first = await send(f, c, check, skip, check ? mine.signal : undefined);
      told(first);
      await follow(first, told);
    } catch (e) {
      if (last.current === mine) {
        setError(e);
        setReport(null);
      }
    }
    if (last.current === mine) setBusy(false);
    if (!check) await queries.invalidateQueries();
  };
  return {
    file,
    /** How many files were opened before this one. */
    opened,
    choice,
    report,
    error,
    busy,
    open: (f: File) => {
      const fresh = { ...nothing, kind: choice.kind };
      setFile(f);
      setReport(null);
      setOpened((n) => n + 1);
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
