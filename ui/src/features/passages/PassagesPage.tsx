import { Plus } from "lucide-react";
import { useRef, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { $api, api, type Schemas } from "../../api/client";
import { useKeys } from "../../app/keys";
import { Actions } from "../../components/Actions";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { Modal } from "../../components/Modal";
import { ProblemText } from "../../components/ProblemText";
import { SearchLine } from "../../components/SearchLine";
import { Select } from "../../components/Select";
import { NameDialog } from "../library/NameDialog";
import { useChange } from "../library/useLibrary";
import { PassageDialog } from "./PassageDialog";

type Passage = Schemas["PassageOut"];
const holds = { params: { query: { holds: "passages" as const } } };

/** The short texts that go into letters by their shortcut: one's own and shared ones. */
export function PassagesPage() {
  const [params, setParams] = useSearchParams();
  const q = params.get("q") ?? "";
  const folder = Number(params.get("folder")) || 0;
  const search = useRef<HTMLInputElement>(null);
  const change = useChange();
  const passages = $api.useQuery("get", "/api/passages", { params: { query: { q, folder } } });
  const folders = $api.useQuery("get", "/api/folders", holds).data?.folders ?? [];
  const [editing, setEditing] = useState<Passage | "new" | null>(null);
  const [deleting, setDeleting] = useState<Passage | null>(null);
  const [naming, setNaming] = useState(false);
  const list = passages.data ?? [];
  const set = (key: string, value: string) => {
    const next = new URLSearchParams(params);
    if (value) next.set(key, value);
    else next.delete(key);
    setParams(next, { replace: true });
  };
  useKeys({ "/": () => search.current?.focus() });
  return (
    <div className="mx-auto max-w-5xl px-3 pt-4 pb-8 sm:px-6">
      <p className="text-sm">
        <Link to="/templates" className="text-main underline">
          Templates
        </Link>
      </p>
      <div className="mb-3 flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1 className="font-serif text-2xl font-semibold">Passages</h1>
        <SearchLine
          ref={search}
          label="Search passages"
          hint="Name, shortcut, words  ( / )"
          value={q}
          onChange={(v) => set("q", v)}
          onOpen={() => list[0]?.mayEdit && setEditing(list[0])}
        />
        {folders.length > 0 && (
          <Select
            label="Folder"
            value={String(folder)}
            choices={[["0", "any folder"], ...folders.map((f) => [String(f.id), f.name] as const)]}
            onChange={(v) => set("folder", v === "0" ? "" : v)}
          />
        )}
        <button type="button" className="text-sm text-main hover:underline" onClick={() => setNaming(true)}>
          New folder
        </button>
        <Button className="ml-auto" onClick={() => setEditing("new")}>
          <Plus size={15} aria-hidden /> New passage
        </Button>
      </div>
      <ProblemText error={passages.error} />
      {passages.isPending && <Loading />}
      {passages.data && list.length === 0 && (
        <p className="py-8 text-ink-soft">
          {q || folder
            ? "No passages match your search."
            : "A passage is a short text you reuse, such as directions or what’s included in the price. Insert it with its shortcut. When you change it, templates that use it are updated."}
        </p>
      )}
      <ul aria-label="Passages" className="border-t border-rule bg-sheet empty:hidden">
        {list.map((p) => (
          <li key={p.id} className="flex items-start gap-3 border-b border-rule px-3 py-2">
            <div className="min-w-0 flex-1">
              {p.mayEdit ? (
                <button
                  type="button"
                  className="text-left font-serif text-[1.05rem] font-medium hover:underline"
                  onClick={() => setEditing(p)}
                >
                  {p.name}
                </button>
              ) : (
                <span className="font-serif text-[1.05rem] font-medium">{p.name}</span>
              )}{" "}
              <code className="text-sm text-main">{p.shortcut}</code>
              <p className="line-clamp-2 text-sm whitespace-pre-line text-ink-soft">{p.words}</p>
            </div>
            <p className="shrink-0 text-right text-sm text-ink-soft">
              {p.own.audience.who === "owner" ? "only mine" : p.mine ? "mine, shared" : `of ${p.owner}`}
              {folders.find((f) => f.id === p.folderId) && (
                <span className="block">{folders.find((f) => f.id === p.folderId)?.name}</span>
              )}
            </p>
            {p.mayEdit && (
              <Actions
                label={`Actions for ${p.name}`}
                items={[
                  ["Edit", () => setEditing(p)],
                  ["Delete", () => setDeleting(p)],
                ]}
              />
            )}
          </li>
        ))}
      </ul>
      {naming && (
        <NameDialog
          title="New folder"
          label="Folder name"
          first=""
          onStore={(name) => change(api.POST("/api/folders", { ...holds, body: { name } }), "Folder added.")}
          onClose={() => setNaming(false)}
        />
      )}
      {editing && (
        <PassageDialog
          first={editing === "new" ? undefined : editing}
          folders={folders.filter((f) => f.mayEdit)}
          onClose={() => setEditing(null)}
        />
      )}
      {deleting && <DeletePassage passage={deleting} onClose={() => setDeleting(null)} />}
    </div>
  );
}

function DeletePassage({ passage: p, onClose }: { passage: Passage; onClose: () => void }) {
  const change = useChange();
  const params = { params: { path: { id: p.id } } };
  const users = $api.useQuery("get", "/api/passages/{id}/dependants", params, { staleTime: 0 }).data;
  const remove = async () => {
    const back = () => void change(api.POST("/api/passages/{id}/put-back", params), `“${p.name}” was restored.`);
    if (await change(api.DELETE("/api/passages/{id}", params), `“${p.name}” was deleted.`, back)) onClose();
  };
  return (
    <Modal title={`Delete “${p.name}”`} onClose={onClose}>
      {users && (
        <>
          <UsedBy users={users} none="No template uses it." note="They show an error until you replace it." />
          <Button look="main" onClick={remove}>
            Delete the passage
          </Button>
        </>
      )}
    </Modal>
  );
}

/** Names the templates that use something. */
export function UsedBy({ users, none, note }: { users: Schemas["UsedBy"]; none: string; note: string }) {
  if (users.templates.length + users.others === 0) return <p className="mb-4">{none}</p>;
  return (
    <>
      <p>Templates that use it:</p>
      <ul className="my-1 list-disc pl-6">
        {users.templates.map((name) => (
          <li key={name}>{name}</li>
        ))}
        {users.others > 0 && <li>{users.others} that you do not see</li>}
      </ul>
      <p className="mb-4 text-sm text-ink-soft">{note}</p>
    </>
  );
}
