import { X } from "lucide-react";
import { useState } from "react";
import { $api, type Schemas, wordsOf } from "../../api/client";
import { upload } from "../../api/upload";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import type { Letter } from "./useDraft";
import { sizeOf } from "./words";

export type Attachment = Schemas["Attachment"];

type Props = {
  letter: Letter;
  onKeep: (list: Attachment[]) => Promise<string>;
  onLink: (documentId: number) => Promise<string>;
  onClose: () => void;
};

/** The files of a letter: from this computer and from the shelf of approved documents. */
export function AttachDialog({ letter, onKeep, onLink, onClose }: Props) {
  const [problems, setProblems] = useState<string[]>([]);
  const [busy, setBusy] = useState("");
  const shelf = $api.useQuery("get", "/api/documents");
  const list = letter.attachments;
  const keep = async (next: Attachment[]) => {
    const said = await onKeep(next);
    setProblems(said ? [said] : []);
  };
  const fromHere = async (files: File[]) => {
    const said: string[] = [];
    const added: Attachment[] = [];
    for (const file of files) {
      setBusy(file.name);
      const { data, error } = await upload<Attachment>("/api/uploads", file).catch(() => ({
        data: undefined,
        error: { detail: "This file couldn’t be read; choose it again." },
      }));
      if (data) added.push(data);
      else said.push(`${file.name}: ${wordsOf(error)}`);
    }
    setBusy("");
    if (added.length > 0) await keep([...list, ...added]);
    if (said.length > 0) setProblems(said);
  };
  return (
    <Modal
      title="Attachments"
      onClose={onClose}
      foot={
        <>
          <span className="text-sm text-ink-soft">
            {list.length > 0 ? `${(letter.wireSize / 1024 / 1024).toFixed(1)} of 25 MB` : ""}
          </span>
          <Button look="main" className="ml-auto" onClick={onClose}>
            Done
          </Button>
        </>
      }
    >
      <ul aria-label="Attached" className="border-t border-rule empty:hidden">
        {list.map((f) => (
          <li key={`${f.sha} ${f.documentId}`} className="flex items-baseline gap-3 border-b border-rule py-1.5">
            <span className="min-w-0 flex-1 truncate font-serif">{f.name}</span>
            <span className="text-sm text-ink-soft">
              {sizeOf(f.size)}
              {f.documentId ? ` · version ${f.version}` : ""}
            </span>
            <button
              type="button"
              aria-label={`Remove ${f.name}`}
              onClick={() => keep(list.filter((x) => x !== f))}
              className="text-ink-soft hover:text-ink"
            >
              <X size={15} aria-hidden />
            </button>
          </li>
        ))}
      </ul>
      {list.length === 0 && <p className="text-ink-soft">No attachments yet.</p>}
      <label className="mt-5 block">
        <span className="mb-1 block text-sm font-semibold text-ink-soft">From this computer</span>
        <input
          type="file"
          multiple
          onChange={(e) => {
            const files = [...(e.target.files ?? [])];
            e.target.value = "";
            void fromHere(files);
          }}
        />
      </label>
      {busy && (
        <p role="status" className="mt-2 text-sm text-ink-soft">
          Adding {busy} …
        </p>
      )}
      {problems.map((p) => (
        <p key={p} role="alert" className="mt-2 text-stop">
          {p}
        </p>
      ))}
      {(shelf.data ?? []).length > 0 && (
        <section aria-label="Documents" className="mt-5">
          <h3 className="mb-1 text-sm font-semibold text-ink-soft">Documents</h3>
          <ul className="border-t border-rule">
            {(shelf.data ?? []).map((d) => (
              <li key={d.id} className="flex items-baseline gap-3 border-b border-rule py-1.5">
                <span className="min-w-0 flex-1">
                  <span className="font-serif">{d.name}</span>
                  <span className="block text-sm text-ink-soft">{d.purpose}</span>
                </span>
                {list.some((f) => f.documentId === d.id) ? (
                  <span className="text-sm text-ok">attached</span>
                ) : (
                  <>
                    <Button
                      look="quiet"
                      aria-label={`Attach ${d.name}`}
                      onClick={() =>
                        keep([...list, { name: d.fileName, sha: d.sha, type: "", size: d.size, documentId: d.id }])
                      }
                    >
                      Attach
                    </Button>
                    {letter.body.attrs.body !== "html" && (
                      <Button
                        look="quiet"
                        aria-label={`Insert a link to ${d.name}`}
                        title="A link to a page that shows it, so you can see whether it was opened"
                        onClick={async () => {
                          const said = await onLink(d.id);
                          if (said) setProblems([said]);
                          else onClose();
                        }}
                      >
                        As a link
                      </Button>
                    )}
                  </>
                )}
              </li>
            ))}
          </ul>
        </section>
      )}
    </Modal>
  );
}
