import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { upload } from "../../api/upload";
import { Actions } from "../../components/Actions";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Loading } from "../../components/Loading";
import { Modal } from "../../components/Modal";
import { ProblemText } from "../../components/ProblemText";
import { dayOf } from "../../components/time";
import { RightsDialog } from "../library/RightsDialog";
import { audienceWords } from "../library/rights";
import { UsedBy } from "../passages/PassagesPage";

type Document = Schemas["DocumentOut"];
type Asked = { what: "add" | "name" | "replace" | "rights" | "delete"; document?: Document };

/** The shelf of approved documents, which templates attach. */
export function DocumentsPage() {
  const queries = useQueryClient();
  const list = $api.useQuery("get", "/api/documents");
  const people = $api.useQuery("get", "/api/colleagues").data;
  const me = $api.useQuery("get", "/api/session").data;
  const [asked, setAsked] = useState<Asked | null>(null);
  const mayEdit = me?.may.editShared ?? false;
  const d = asked?.document;
  const done = async (answer: Promise<{ error?: unknown }>, words: string) => {
    const { error } = await answer.catch(noAnswer);
    await queries.invalidateQueries({ queryKey: ["get", "/api/documents"] });
    if (error) toast.error(wordsOf(error));
    else toast.success(words);
    return !error;
  };
  return (
    <div className="mx-auto max-w-5xl px-3 pt-4 pb-8 sm:px-6">
      <p className="text-sm">
        <Link to="/templates" className="text-main underline">
          Templates
        </Link>
      </p>
      <div className="mb-3 flex flex-wrap items-center gap-4">
        <h1 className="font-serif text-2xl font-semibold">Documents</h1>
        <p className="min-w-0 flex-1 text-sm text-ink-soft max-sm:order-last max-sm:basis-full">
          Templates attach them. When one is replaced, every template follows; sent letters keep what they had.
        </p>
        {mayEdit && <Button onClick={() => setAsked({ what: "add" })}>Add a file</Button>}
      </div>
      <ProblemText error={list.error} />
      {list.isPending && <Loading />}
      {list.data?.length === 0 && (
        <p className="py-8 text-ink-soft">
          Nothing is on the shelf yet. {mayEdit ? "Add a price list or your terms." : "Team leads add files."}
        </p>
      )}
      <ul aria-label="Documents" className="border-t border-rule bg-sheet empty:hidden">
        {list.data?.map((doc) => (
          <li key={doc.id} className="flex items-start gap-3 border-b border-rule px-3 py-2">
            <div className="min-w-0 flex-1">
              <a
                href={`/api/documents/${doc.id}/file`}
                download
                className="font-serif text-[1.05rem] font-medium hover:underline"
              >
                {doc.name}
              </a>
              <p className="text-sm text-ink-soft">{doc.purpose}</p>
            </div>
            <p className="text-right text-sm text-ink-soft">
              {doc.fileName}, {Math.max(1, Math.round(doc.size / 1024))} KB
              <span className="block">
                version {doc.version}, {dayOf(doc.updatedAt)}
                {people && doc.own.audience.who !== "" ? ` · for ${audienceWords(doc.own.audience, people)}` : ""}
              </span>
            </p>
            {doc.mayEdit && (
              <Actions
                label={`Actions for ${doc.name}`}
                items={[
                  ["Replace the file", () => setAsked({ what: "replace", document: doc })],
                  ["Name and purpose", () => setAsked({ what: "name", document: doc })],
                  ["Who can use it", () => setAsked({ what: "rights", document: doc })],
                  null,
                  ["Remove it", () => setAsked({ what: "delete", document: doc })],
                ]}
              />
            )}
          </li>
        ))}
      </ul>
      {(asked?.what === "add" || asked?.what === "name" || asked?.what === "replace") && (
        <DocumentDialog asked={asked} onDone={done} onClose={() => setAsked(null)} />
      )}
      {asked?.what === "rights" && d && (
        <RightsDialog
          title={`Who can use “${d.name}”`}
          own={d.own}
          inside="all documents: everybody"
          useOnly
          onStore={(own) =>
            done(
              api.PUT("/api/documents/{id}", {
                params: { path: { id: d.id } },
                body: { name: d.name, purpose: d.purpose, own },
              }),
              "Stored.",
            )
          }
          onClose={() => setAsked(null)}
        />
      )}
      {asked?.what === "delete" && d && <Remove document={d} onDone={done} onClose={() => setAsked(null)} />}
    </div>
  );
}

type Done = (answer: Promise<{ error?: unknown }>, words: string) => Promise<boolean>;

function DocumentDialog({ asked, onDone, onClose }: { asked: Asked; onDone: Done; onClose: () => void }) {
  const d = asked.document;
  const [name, setName] = useState(d?.name ?? "");
  const [purpose, setPurpose] = useState(d?.purpose ?? "");
  const [file, setFile] = useState<File>();
  const [busy, setBusy] = useState(false);
  const withFile = asked.what !== "name";
  const store = async (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    let ok = false;
    if (!withFile && d)
      ok = await onDone(
        api.PUT("/api/documents/{id}", { params: { path: { id: d.id } }, body: { name, purpose, own: d.own } }),
        "Stored.",
      );
    else if (file && d)
      ok = await onDone(
        upload(`/api/documents/${d.id}/file`, file),
        "Replaced. Templates that attach it will use the new file.",
      );
    else if (file)
      ok = await onDone(upload(`/api/documents?${new URLSearchParams({ name, purpose })}`, file), "Added.");
    setBusy(false);
    if (ok) onClose();
  };
  return (
    <Modal title={d ? `“${d.name}”` : "Add a file"} onClose={onClose}>
      <form onSubmit={store} className="flex flex-col gap-4">
        {asked.what !== "replace" && (
          <>
            <Input label="Name" value={name} onChange={(e) => setName(e.target.value)} serif />
            <Input label="Purpose" value={purpose} onChange={(e) => setPurpose(e.target.value)} />
          </>
        )}
        {withFile && (
          <label className="block">
            <span className="block text-sm text-ink-soft">The file, at most 15 MiB</span>
            <input type="file" onChange={(e) => setFile(e.target.files?.[0])} className="mt-1" />
          </label>
        )}
        <div>
          <Button
            look="main"
            type="submit"
            disabled={busy || (withFile && !file) || (asked.what !== "replace" && !name.trim())}
          >
            {busy ? "Saving …" : "Save"}
          </Button>
        </div>
      </form>
    </Modal>
  );
}

function Remove({ document: d, onDone, onClose }: { document: Document; onDone: Done; onClose: () => void }) {
  const params = { params: { path: { id: d.id } } };
  const users = $api.useQuery("get", "/api/documents/{id}/dependants", params, { staleTime: 0 }).data;
  const remove = async () => {
    const { error } = await api.DELETE("/api/documents/{id}", params).catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    await onDone(Promise.resolve({}), `“${d.name}” was removed.`);
    toast("You can restore it.", {
      action: {
        label: "Undo",
        onClick: () => void onDone(api.POST("/api/documents/{id}/put-back", params), "Restored."),
      },
    });
    onClose();
  };
  return (
    <Modal title={`Remove “${d.name}”`} onClose={onClose}>
      {users && (
        <>
          <UsedBy
            users={users}
            none="No template attaches it."
            note="Letters from them won’t include it from now on. Letters already sent keep it."
          />
          <Button look="main" onClick={remove}>
            Remove it
          </Button>
        </>
      )}
    </Modal>
  );
}
