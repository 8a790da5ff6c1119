import type { EditorView } from "@codemirror/view";
import type { Editor } from "@tiptap/react";
import { useRef, useState } from "react";
import { $api, api, type Schemas, statusOf } from "../../api/client";
import { tellGone } from "../../api/gone";
import { useWrite } from "../../api/useWrite";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Modal } from "../../components/Modal";
import type { Folder } from "../library/useLibrary";
import { useChange } from "../library/useLibrary";
import { FieldList } from "../templates/FieldList";
import { FormattedBody } from "../templates/FormattedBody";
import { formatted } from "../templates/formatted";
import { TextForm } from "../templates/TextForm";

type Passage = Schemas["PassageOut"];
type Props = { first: Passage | undefined; folders: Folder[]; onClose: () => void };

const everybody: Schemas["Rights"] = { audience: { who: "" }, editors: { who: "" } };
const onlyMine: Schemas["Rights"] = { audience: { who: "owner" }, editors: { who: "" } };

/** Writes a passage. */
export function PassageDialog({ first, folders, onClose }: Props) {
  const change = useChange();
  const fields = $api.useQuery("get", "/api/fields").data ?? [];
  const [name, setName] = useState(first?.name ?? "");
  const [shortcut, setShortcut] = useState(first?.shortcut ?? "");
  const [body, setBody] = useState(first?.body ?? "");
  const [doc, setDoc] = useState(first?.doc);
  const [folder, setFolder] = useState(first?.folderId ?? 0);
  const [own, setOwn] = useState(first?.own ?? onlyMine);
  const [picking, setPicking] = useState(false);
  const view = useRef<EditorView>(null);
  const editor = useRef<Editor>(null);
  const { write, busy, problem } = useWrite(
    async () => {
      const input = {
        name,
        shortcut,
        own,
        ...(folder ? { folderId: folder } : {}),
        ...(doc ? { body: "", kind: "formatted" as const, doc } : { body }),
      };
      if (!first) return api.POST("/api/passages", { body: input });
      const path = { path: { id: first.id } };
      const answer = await api.PUT("/api/passages/{id}", {
        params: path,
        body: { ...input, version: first.version },
      });
      if (statusOf(answer.error) === 404)
        tellGone("This passage", () => api.POST("/api/passages/{id}/put-back", { params: path }));
      return answer;
    },
    async () => {
      await change(Promise.resolve({}), "Saved. Templates that use it are updated.");
      onClose();
    },
  );
  const latest = useRef({ body });
  latest.current = { body };
  const format = async () => {
    const made = await formatted(() => latest.current);
    if (made) setDoc(made.doc);
  };
  const pick = (path: string) => {
    setPicking(false);
    if (doc) editor.current?.chain().focus().insertContent({ type: "field", attrs: { path } }).run();
    else view.current?.dispatch(view.current.state.replaceSelection(`{{${path}}}`));
  };
  return (
    <Modal
      title={first ? `Passage “${first.name}”` : "New passage"}
      onClose={onClose}
      wide
      foot={
        <>
          <Button look="main" onClick={() => write()} disabled={busy}>
            Save the passage
          </Button>
          <Button look="quiet" onClick={onClose}>
            Cancel
          </Button>
          {!doc && (
            <Button className="ml-auto" onClick={format}>
              Format it
            </Button>
          )}
          <Button className={doc ? "ml-auto" : ""} onClick={() => setPicking(true)}>
            Merge field
          </Button>
        </>
      }
    >
      {problem && (
        <p role="alert" className="mb-3 border-l-3 border-stop bg-stop-soft px-3 py-2 text-stop">
          {problem}
        </p>
      )}
      <div className="mb-4 grid gap-x-6 gap-y-3 sm:grid-cols-2">
        <Input label="Name" value={name} maxLength={80} onChange={(e) => setName(e.target.value)} serif />
        <Input
          label="Shortcut: lower-case letters, digits and _"
          value={shortcut}
          maxLength={30}
          onChange={(e) => setShortcut(e.target.value.toLowerCase().replace(/[^a-z0-9_]/g, "_"))}
        />
        <label className="block">
          <span className="block text-sm text-ink-soft">Who can use it</span>
          <select
            value={own.audience.who}
            onChange={(e) =>
              setOwn(e.target.value === "owner" ? onlyMine : { ...(first?.own ?? everybody), audience: { who: "" } })
            }
            className="min-h-9 w-full border-b border-rule-strong bg-sheet"
          >
            <option value="owner">only me</option>
            <option value="">everybody, or as its folder</option>
            {own.audience.who === "some" && <option value="some">people it is shared with</option>}
          </select>
        </label>
        <label className="block">
          <span className="block text-sm text-ink-soft">Folder</span>
          <select
            value={folder}
            onChange={(e) => setFolder(Number(e.target.value))}
            className="min-h-9 w-full border-b border-rule-strong bg-sheet"
          >
            <option value={0}>no folder</option>
            {folders.map((f) => (
              <option key={f.id} value={f.id}>
                {f.name}
              </option>
            ))}
          </select>
        </label>
      </div>
      <div className="min-h-40 border border-rule px-5 py-4 [&_.ProseMirror]:min-h-28!">
        {doc ? (
          <FormattedBody
            label="Passage"
            settings
            first={doc}
            fields={fields}
            readOnly={false}
            onReady={(e) => {
              editor.current = e;
            }}
            onChange={setDoc}
            onFocus={() => {}}
            onBrace={() => setPicking(true)}
          />
        ) : (
          <TextForm
            label="Passage"
            hint="Type the passage. Type { for merge fields."
            text={body}
            fields={fields}
            notes={[]}
            className="text-[1.05rem]"
            onChange={setBody}
            onReady={(v) => {
              view.current = v;
            }}
            onFocus={() => {}}
          />
        )}
      </div>
      {picking && <FieldList onPick={(f) => pick(f.path)} onClose={() => setPicking(false)} />}
    </Modal>
  );
}
