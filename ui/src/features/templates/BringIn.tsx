import { useState } from "react";
import { api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { upload } from "../../api/upload";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import type { Wording } from "../library/wording";

type Read = Schemas["ReadOut"];
type Found = Pick<Read, "removed" | "notes"> & { wording: Partial<Wording> };
type Props = { name: string; onTake: (wording: Partial<Wording>) => void; onClose: () => void };

const most = 1024 * 1024;

/** Brings a wording in: a page that is pasted, or a file. */
export function BringIn({ name, onTake, onClose }: Props) {
  const [pasted, setPasted] = useState("");
  const [read, setRead] = useState<Found | null>(null);
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);
  const run = async (answer: Promise<{ data?: Found | undefined; error?: unknown }>) => {
    setBusy(true);
    setProblem("");
    const { data, error } = await answer.catch(noAnswer);
    setBusy(false);
    if (!data) return setProblem(wordsOf(error));
    if (data.removed.length + data.notes.length === 0) return onTake(data.wording);
    setRead(data);
  };
  const wordingIn = (r: Read): Partial<Wording> => ({
    kind: r.kind,
    body: r.body,
    doc: r.doc,
    language: r.language,
    ...(name ? {} : { name: r.name, whenToUse: r.whenToUse }),
    ...(r.subject ? { subject: r.subject, subjectDoc: r.subjectDoc } : {}),
  });
  const fromPaste = async () => {
    if (new Blob([pasted]).size > most) return setProblem("The page is larger than 1 MiB; remove embedded pictures.");
    const { data, error } = await api.POST("/api/templates/page", { body: { body: pasted } }).catch(noAnswer);
    const found = data && {
      removed: data.removed,
      notes: [],
      wording: { kind: "html" as const, body: data.body, doc: undefined },
    };
    await run(Promise.resolve({ data: found, error }));
  };
  const fromFile = (file: File | undefined) => {
    if (!file) return;
    if (file.size > 6 * most) return setProblem("The file is larger than 6 MiB.");
    void run(
      upload<Read>("/api/templates/read-file", file).then(({ data, error }) => ({
        error,
        data: data && { removed: data.removed, notes: data.notes, wording: wordingIn(data) },
      })),
    );
  };
  return (
    <Modal title="Import text" onClose={onClose} wide>
      {problem && (
        <p role="alert" className="mb-3 border-l-3 border-stop bg-stop-soft px-3 py-2 text-stop">
          {problem}
        </p>
      )}
      {read ? (
        <>
          {read.removed.length > 0 && (
            <>
              <p>Letters can’t contain this, so it was removed:</p>
              <ul className="my-2 list-disc pl-6">
                {read.removed.map((r) => (
                  <li key={r.what}>
                    {r.what} {r.count > 1 ? `(${r.count} times)` : ""}
                  </li>
                ))}
              </ul>
            </>
          )}
          {read.notes.map((n) => (
            <p key={n} className="my-2">
              {n}
            </p>
          ))}
          <Button look="main" onClick={() => onTake(read.wording)}>
            Import the rest
          </Button>
        </>
      ) : (
        <>
          <label className="block">
            <span className="block text-sm text-ink-soft">
              A file: HTML (.html), email (.eml), Markdown (.md), text (.txt) or a template (.json)
            </span>
            <input
              type="file"
              accept=".html,.htm,.eml,.md,.txt,.json"
              disabled={busy}
              onChange={(e) => fromFile(e.target.files?.[0])}
              className="mt-1"
            />
          </label>
          <label className="mt-5 block">
            <span className="block text-sm text-ink-soft">Or paste the HTML of a page</span>
            <textarea
              value={pasted}
              onChange={(e) => setPasted(e.target.value)}
              rows={10}
              spellCheck={false}
              className="mt-1 w-full border border-rule-strong bg-sheet p-2 font-mono text-sm outline-none focus:border-main"
            />
          </label>
          <Button look="main" className="mt-3" disabled={busy || pasted.trim() === ""} onClick={fromPaste}>
            Import the page
          </Button>
        </>
      )}
    </Modal>
  );
}
