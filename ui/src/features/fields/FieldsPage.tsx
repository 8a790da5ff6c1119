import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { type Action, Actions } from "../../components/Actions";
import { Button } from "../../components/Button";
import { EditableFacts } from "../../components/EditableFacts";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { AddField, ChangeField, DeleteField, types } from "./FieldDialogs";

type Field = Schemas["FieldInfo"];

/** The values that letters take from the team, and the custom fields of every record. */
export function FieldsPage() {
  const fields = $api.useQuery("get", "/api/fields");
  const me = $api.useQuery("get", "/api/session").data;
  const queries = useQueryClient();
  const [deleting, setDeleting] = useState<Field | null>(null);
  const [changing, setChanging] = useState<Field | null>(null);
  const [adding, setAdding] = useState(false);
  const mayEdit = me?.may.editShared ?? false;
  const own = (fields.data ?? []).filter((f) => f.own && f.home);
  const move = async (path: string, before = "") => {
    const params = { params: { path: { path } }, body: before ? { before } : {} };
    const { error } = await api.POST("/api/fields/{path}/move", params).catch(noAnswer);
    if (error) toast.error(wordsOf(error));
    await queries.invalidateQueries({ queryKey: ["get", "/api/fields"] });
  };
  return (
    <div className="mx-auto max-w-4xl px-3 pt-4 pb-8 sm:px-6">
      <Teams />
      <div className="mb-4 flex flex-wrap items-center gap-4">
        <h2 className="font-serif text-2xl font-semibold max-sm:flex-1">Custom fields</h2>
        <p className="min-w-0 flex-1 text-sm text-ink-soft max-sm:order-last max-sm:basis-full">
          Fields of your own for people, companies, deals, senders and the team.
        </p>
        {mayEdit && <Button onClick={() => setAdding(true)}>New field</Button>}
      </div>
      <ProblemText error={fields.error} />
      {fields.isPending && <Loading />}
      {fields.data && own.length === 0 && <p className="py-8 text-ink-soft">There are no custom fields yet.</p>}
      <ul
        aria-label="Custom fields"
        {...(!mayEdit && { tabIndex: 0 })}
        className="border-t border-rule bg-sheet empty:hidden"
      >
        {own.map((f, i) => (
          <li
            key={f.path}
            className="grid grid-cols-[minmax(0,1fr)_auto] items-baseline gap-x-4 border-b border-rule px-3 py-1.5 sm:flex"
          >
            <span className="min-w-0 font-medium break-words sm:flex-1">{f.label}</span>
            <code className="text-sm break-all text-ink-soft max-sm:col-start-1">{f.path}</code>
            <span className="text-sm text-ink-soft max-sm:col-start-1 sm:w-36">
              {types.find(([t]) => t === f.type)?.[1] ?? f.type}
            </span>
            {mayEdit && (
              <span className="max-sm:col-start-2 max-sm:row-start-1">
                <Actions
                  label={`Actions for ${f.label}`}
                  items={[
                    [f.type === "choice" ? "Rename or change choices" : "Rename", () => setChanging(f)],
                    ...(i > 0 ? [["Move up", () => void move(f.path, own[i - 1]?.path)] as Action] : []),
                    ...(i < own.length - 1 ? [["Move down", () => void move(f.path, own[i + 2]?.path)] as Action] : []),
                    null,
                    ["Delete", () => setDeleting(f)],
                  ]}
                />
              </span>
            )}
          </li>
        ))}
      </ul>
      {deleting && <DeleteField field={deleting} onClose={() => setDeleting(null)} />}
      {changing && <ChangeField field={changing} onClose={() => setChanging(null)} />}
      {adding && <AddField onClose={() => setAdding(false)} />}
    </div>
  );
}

function Teams() {
  const teams = $api.useQuery("get", "/api/teams");
  return (
    <section aria-label="Team" className="mb-8">
      <h1 className="font-serif text-2xl font-semibold">Team and fields</h1>
      <p className="text-sm text-ink-soft">Letters take these values from their sender’s team.</p>
      <ProblemText error={teams.error} />
      {teams.data?.map((t) => (
        <section key={t.id} aria-label={t.name} className="mt-3 border border-rule bg-sheet px-4 pt-2 pb-4">
          <h3 className="font-semibold">{t.name}</h3>
          <EditableFacts
            kind="team"
            id={t.id}
            fields={t.fields}
            readOnly={!t.mayEdit}
            whole
            onChange={() => teams.refetch()}
          />
        </section>
      ))}
    </section>
  );
}
