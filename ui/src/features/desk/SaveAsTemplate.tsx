import { useState } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { $api, api } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Modal } from "../../components/Modal";
import { ProblemText } from "../../components/ProblemText";
import type { Letter } from "./useDraft";

/** Makes a template out of the letter: what came from fields is a field again, the rest is offered. */
export function SaveAsTemplate({ letter, onClose }: { letter: Letter; onClose: () => void }) {
  const go = useNavigate();
  const [name, setName] = useState("");
  const [whenToUse, setWhenToUse] = useState("");
  const [folder, setFolder] = useState(0);
  const [take, setTake] = useState<string[]>([]);
  const params = { path: { id: letter.id } };
  const seen = $api.useQuery(
    "get",
    "/api/letters/{id}/as-template",
    { params: { ...params, query: { take } } },
    { staleTime: 0, gcTime: 0, placeholderData: (old) => old },
  );
  const folders = $api.useQuery("get", "/api/folders").data?.folders ?? [];
  const { write, busy, problem } = useWrite(
    () => {
      const body = { name, whenToUse, take, ...(folder ? { folderId: folder } : {}) };
      return api.POST("/api/letters/{id}/as-template", { params, body });
    },
    (id) => {
      onClose();
      toast.success("Saved as a draft template. Your letter hasn’t changed.", {
        action: { label: "Open it", onClick: () => go(`/templates/${id}`) },
      });
    },
  );
  return (
    <Modal
      title="Save this letter as a template"
      onClose={onClose}
      wide
      foot={
        <Button look="main" className="ml-auto" disabled={busy} onClick={() => write()}>
          Save as template
        </Button>
      }
    >
      <div className="grid gap-6 md:grid-cols-[18rem_minmax(0,1fr)]">
        <div>
          <Input label="Name (recipients never see it)" value={name} onChange={(e) => setName(e.target.value)} />
          <Input
            className="mt-3"
            label="When to use"
            value={whenToUse}
            onChange={(e) => setWhenToUse(e.target.value)}
          />
          <label className="mt-3 block">
            <span className="block text-sm text-ink-soft">Folder</span>
            <select
              value={folder}
              onChange={(e) => setFolder(Number(e.target.value))}
              className="min-h-9 w-full border-b border-rule-strong bg-sheet"
            >
              <option value={0}>none</option>
              {folders.map((f) => (
                <option key={f.id} value={f.id}>
                  {f.name}
                </option>
              ))}
            </select>
          </label>
          {(seen.data?.offers ?? []).length > 0 && (
            <fieldset className="mt-4">
              <legend className="text-sm text-ink-soft">
                These words are values of {letter.person}. Make them fields?
              </legend>
              {seen.data?.offers.map((o) => (
                <label key={o.path} className="flex items-baseline gap-2 py-1">
                  <input
                    type="checkbox"
                    checked={take.includes(o.path)}
                    onChange={(e) => setTake(e.target.checked ? [...take, o.path] : take.filter((p) => p !== o.path))}
                  />
                  <span>
                    <b className="font-serif">{o.words}</b>{" "}
                    <span className="text-sm text-ink-soft">
                      {o.label}
                      {o.count > 1 ? `, ${o.count} times` : ""}
                    </span>
                  </span>
                </label>
              ))}
            </fieldset>
          )}
          {problem && (
            <p role="alert" className="mt-3 text-stop">
              {problem}
            </p>
          )}
        </div>
        <section aria-label="The template" className="border border-rule px-6 py-5">
          <ProblemText error={seen.error} />
          <div className="letter-text max-h-[52vh] overflow-auto text-base!">{seen.data?.words}</div>
        </section>
      </div>
    </Modal>
  );
}
