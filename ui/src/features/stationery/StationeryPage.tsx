import { useQueryClient } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { Modal } from "../../components/Modal";
import { ProblemText } from "../../components/ProblemText";
import { UsedBy } from "../passages/PassagesPage";
import { StationerySheet } from "./StationerySheet";
import type { Stationery } from "./stationery";

const empty: Schemas["Document"] = {
  type: "doc",
  attrs: { version: 1, body: "formatted" },
  content: [{ type: "paragraph" }],
};
const fresh: Stationery = {
  id: 0,
  name: "",
  header: empty,
  footer: empty,
  ready: false,
  default: false,
  version: 0,
  updatedAt: "",
};

/** The headers and footers around formatted letters; leads write them, every template follows. */
export function StationeryPage() {
  const list = $api.useQuery("get", "/api/stationery");
  const me = $api.useQuery("get", "/api/session").data;
  const [deleting, setDeleting] = useState<Stationery | null>(null);
  const mayEdit = me?.may.editShared ?? false;
  const { id } = useParams();
  const go = useNavigate();
  const named = id === "new" ? fresh : list.data?.find((s) => s.id === Number(id));
  const found = id ? named : (list.data?.find((s) => s.default) ?? list.data?.[0]);
  // What is being written on stays, whatever becomes of it elsewhere.
  const [changed, setChanged] = useState(false);
  const [held, setHeld] = useState({ at: id, one: found });
  const writing = changed && held.at === id;
  if (!writing && (held.at !== id || held.one !== found)) setHeld({ at: id, one: found });
  const shown = writing ? (list.data?.find((s) => s.id === held.one?.id) ?? held.one) : found;
  return (
    <div className="px-3 pt-4 pb-8 sm:px-6">
      <p className="text-sm">
        <Link to="/templates" className="text-main underline">
          Templates
        </Link>
      </p>
      <div className="mb-4 flex flex-wrap items-center gap-4">
        <h1 className="font-serif text-2xl font-semibold">Stationery</h1>
        <p className="min-w-0 flex-1 text-sm text-ink-soft max-sm:order-last max-sm:basis-full">
          A shared header and footer for formatted letters. Writers see it in the proof but can’t change it.
        </p>
        {mayEdit && (
          <Button onClick={() => go("/stationery/new")}>
            <Plus size={15} aria-hidden /> New stationery
          </Button>
        )}
      </div>
      <ProblemText error={list.error} />
      {list.isPending && <Loading />}
      {list.data?.length === 0 && !id && (
        <p className="py-8 text-ink-soft">
          There is none yet, so letters go without.{" "}
          {mayEdit ? "Add one with your name at the top and your address at the bottom." : "Team leads add it."}
        </p>
      )}
      <div className="grid gap-x-8 gap-y-6 lg:grid-cols-[14rem_minmax(0,1fr)]">
        <ul aria-label="Stationery">
          {list.data?.map((s) => (
            <li key={s.id} className="flex items-center">
              <Link
                to={`/stationery/${s.id}`}
                aria-current={shown?.id === s.id ? "page" : undefined}
                className={`min-w-0 flex-1 rounded-sm px-2 py-1 text-left ${shown?.id === s.id ? "bg-main-soft" : "hover:bg-main-soft"}`}
              >
                <span className="block font-serif font-medium">{s.name}</span>
                <span className="block text-sm text-ink-soft">
                  {s.default ? "default" : s.ready ? "ready" : "not ready"}
                </span>
              </Link>
              {mayEdit && (
                <Button look="quiet" className="px-1! text-sm" onClick={() => setDeleting(s)}>
                  Delete<span className="sr-only"> {s.name}</span>
                </Button>
              )}
            </li>
          ))}
        </ul>
        {shown && (
          <Followed
            key={shown.id}
            first={shown}
            mayEdit={mayEdit}
            changed={changed}
            onChanged={setChanged}
            onStored={(s) => shown.id === 0 && go(`/stationery/${s.id}`, { replace: true })}
          />
        )}
        {id && !shown && list.data && <p className="py-8 text-ink-soft">This stationery was deleted.</p>}
      </div>
      {deleting && (
        <DeleteStationery
          stationery={deleting}
          onClose={() => setDeleting(null)}
          onDeleted={() => deleting.id === shown?.id && go("/stationery")}
        />
      )}
    </div>
  );
}

/** The sheet follows what colleagues store, as long as nothing was written on it here. */
function Followed({
  first,
  mayEdit,
  changed,
  onChanged,
  onStored,
}: {
  first: Stationery;
  mayEdit: boolean;
  changed: boolean;
  onChanged: (changed: boolean) => void;
  onStored: (s: Stationery) => void;
}) {
  const [from, setFrom] = useState(first);
  const [known, setKnown] = useState(first.version);
  if (first.version > known && !changed) {
    setFrom(first);
    setKnown(first.version);
  }
  return (
    <StationerySheet
      key={from.version}
      first={from}
      mayEdit={mayEdit}
      onChanged={onChanged}
      onStored={(s) => {
        setKnown(s.version);
        onStored(s);
      }}
    />
  );
}

function DeleteStationery({
  stationery: s,
  onClose,
  onDeleted,
}: {
  stationery: Stationery;
  onClose: () => void;
  onDeleted: () => void;
}) {
  const queries = useQueryClient();
  const path = { path: { id: s.id } };
  const users = $api.useQuery("get", "/api/stationery/{id}/dependants", { params: path }, { staleTime: 0 }).data;
  const fresh_ = () => queries.invalidateQueries({ queryKey: ["get", "/api/stationery"] });
  const remove = async () => {
    const { data, error } = await api
      .DELETE("/api/stationery/{id}", { params: { ...path, query: { version: s.version } } })
      .catch(noAnswer);
    if (!data) return void toast.error(wordsOf(error));
    await fresh_();
    onDeleted();
    onClose();
    const back = async () => {
      const answer = await api
        .POST("/api/stationery/{id}/put-back", { params: { ...path, query: { version: data.version } } })
        .catch(noAnswer);
      if (answer.error) toast.error(wordsOf(answer.error));
      await fresh_();
    };
    toast.success(`“${s.name}” was deleted.`, { action: { label: "Undo", onClick: back } });
  };
  return (
    <Modal title={`Delete “${s.name}”`} onClose={onClose}>
      {users && (
        <>
          <UsedBy
            users={users}
            none="No template uses it."
            note="Letters from them won’t have it from now on. Letters already sent keep it."
          />
          <Button look="main" onClick={remove}>
            Delete the stationery
          </Button>
        </>
      )}
    </Modal>
  );
}
