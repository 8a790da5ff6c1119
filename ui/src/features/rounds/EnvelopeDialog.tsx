import { useState } from "react";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Modal } from "../../components/Modal";
import { AfterFields } from "./AfterFields";
import type { Acting } from "./useRound";
import type { Round } from "./words";

/** What the letters of a round have in common beside their words: sender, attachments, what happens afterwards. */
export function EnvelopeDialog({ round, act, onClose }: { round: Round; act: Acting; onClose: () => void }) {
  const [name, setName] = useState(round.name);
  const [from, setFrom] = useState(round.from);
  const [replyTo, setReplyTo] = useState(round.replyTo);
  const [files, setFiles] = useState(round.attachments);
  const [after, setAfter] = useState(round.after);
  const froms = $api.useQuery("get", "/api/me/from", {}, { staleTime: 60_000 }).data ?? [];
  const documents = $api.useQuery("get", "/api/documents").data ?? [];
  const save = async () => {
    const ok = await act(
      api.PUT("/api/rounds/{id}/envelope", {
        params: { path: { id: round.id }, query: { version: round.version } },
        body: { name, from, replyTo, attachments: files, after },
      }),
      "Saved.",
    );
    if (ok) onClose();
  };
  const upload = async (list: FileList | null) => {
    for (const file of list ?? []) {
      const body = new FormData();
      body.append("file", file);
      const answer = await fetch("/api/attachments", { method: "POST", body }).catch(noAnswer);
      const data = "json" in answer ? await answer.json().catch(() => ({})) : {};
      if (!("ok" in answer) || !answer.ok) return void toast.error(wordsOf(data));
      setFiles((old) => [...old, data as Schemas["Attachment"]]);
    }
  };
  return (
    <Modal
      title="Sender, attachments, afterwards"
      onClose={onClose}
      foot={
        <Button look="main" className="ml-auto" onClick={save}>
          Save
        </Button>
      }
    >
      <Input
        label="Name of the round (recipients never see it)"
        value={name}
        onChange={(e) => setName(e.target.value)}
        className="mb-4"
      />
      <label className="mb-4 block">
        <span className="block text-sm text-ink-soft">From</span>
        <select
          value={from}
          onChange={(e) => setFrom(e.target.value)}
          className="min-h-9 w-full border-b border-rule-strong bg-sheet"
        >
          {froms.map((f, i) => (
            <option key={f.email} value={i === 0 ? "" : f.email}>
              {f.name} &lt;{f.email}&gt;
            </option>
          ))}
        </select>
      </label>
      <Input
        label="Replies go to"
        hint="Empty: to the sender"
        type="email"
        value={replyTo}
        onChange={(e) => setReplyTo(e.target.value)}
        className="mb-4"
      />
      <fieldset className="mb-4">
        <legend className="text-sm text-ink-soft">Attached to every letter, beside what the template attaches</legend>
        <ul>
          {files.map((f) => (
            <li key={`${f.sha} ${f.documentId ?? 0}`} className="flex items-center gap-3">
              {f.name}
              <Button look="quiet" className="px-1! text-sm" onClick={() => setFiles(files.filter((x) => x !== f))}>
                Remove<span className="sr-only"> {f.name}</span>
              </Button>
            </li>
          ))}
        </ul>
        <div className="mt-1 flex flex-wrap items-center gap-3">
          <select
            aria-label="Attach a document"
            value=""
            onChange={(e) => {
              const d = documents.find((x) => x.id === Number(e.target.value));
              if (d) setFiles([...files, { name: d.fileName, sha: d.sha, type: "", size: d.size, documentId: d.id }]);
            }}
            className="min-h-9 border-b border-rule-strong bg-sheet"
          >
            <option value="">Attach a document …</option>
            {documents
              .filter((d) => !files.some((f) => f.documentId === d.id))
              .map((d) => (
                <option key={d.id} value={d.id}>
                  {d.name}
                </option>
              ))}
          </select>
          <label className="cursor-pointer text-main underline">
            Attach a file
            <input type="file" multiple className="sr-only" onChange={(e) => void upload(e.target.files)} />
          </label>
        </div>
      </fieldset>
      <AfterFields after={after} onChange={setAfter} />
    </Modal>
  );
}
