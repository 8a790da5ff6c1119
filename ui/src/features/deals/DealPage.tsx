import { PenLine } from "lucide-react";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { useHere, useWriting } from "../../app/writing";
import { Actions } from "../../components/Actions";
import { Button } from "../../components/Button";
import { EditableFacts } from "../../components/EditableFacts";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { blank } from "../find/blank";
import { Picker } from "../find/Picker";
import { Filed } from "../people/Filed";
import { CompanyDialog } from "../records/CompanyDialog";
import { DealPeople } from "../records/DealPeople";
import { NoteLine } from "../records/NoteLine";
import { OwnerDialog } from "../records/OwnerDialog";
import { DeletedLine, DeleteRecord } from "../records/Taken";
import { Colleagues } from "./Colleagues";

/** A deal: its facts, its people, what happened; letters about it begin here, also those to colleagues. */
export function DealPage() {
  const id = Number(useParams().id);
  const go = useNavigate();
  const write = useWriting();
  const [inside, setInside] = useState(false);
  const [open, setOpen] = useState<"people" | "company" | "owner" | "delete" | null>(null);
  const deal = $api.useQuery("get", "/api/deals/{id}", { params: { path: { id } } }, { staleTime: 0 });
  const d = deal.data;
  useHere(d?.mainContactId ? { personId: d.mainContactId, dealId: id } : null);
  if (deal.isPending) return <Loading />;
  if (!d)
    return (
      <div className="p-6">
        <ProblemText error={deal.error} />
      </div>
    );
  const record = { kind: "deal" as const, id, name: d.name };
  const close = () => setOpen(null);
  return (
    <div className="flex min-h-full flex-col">
      <DeletedLine record={record} at={d.deletedAt} />
      <header className="border-b border-rule-strong bg-sheet px-4 pt-4 pb-3 sm:px-6">
        <div className="flex flex-wrap items-baseline gap-x-4 gap-y-2">
          <h1 className="font-serif text-3xl font-semibold">{d.name}</h1>
          <p className="text-ink-soft">
            Deal
            {d.companyId && (
              <>
                {" with "}
                <Link to={`/companies/${d.companyId}`} className="text-main underline">
                  {d.company}
                </Link>
              </>
            )}
            {d.owner && ` · Owner: ${d.owner}`}
          </p>
          <div className="ml-auto flex flex-wrap gap-2">
            <Button onClick={() => setInside(true)} disabled={!d.mainContactId}>
              Write to colleagues
            </Button>
            {d.mainContactId && (
              <Button look="main" onClick={() => write({ personId: d.mainContactId ?? 0, dealId: id })}>
                <PenLine size={15} aria-hidden /> Write to {d.contact}
              </Button>
            )}
            <Actions
              label="More about this deal"
              items={[
                ...(d.mainContactId
                  ? ([
                      [`Start a plan with ${d.contact}`, () => go(`/start?person=${d.mainContactId}&deal=${id}`)],
                    ] as const)
                  : []),
                ["Change the people", () => setOpen("people")],
                ["Change the company", () => setOpen("company")],
                ["Change the owner", () => setOpen("owner")],
                null,
                ["Delete", () => setOpen("delete")],
              ]}
            />
          </div>
        </div>
        <EditableFacts
          kind="deal"
          id={id}
          fields={d.fields.filter((f) => f.path !== "deal.name")}
          onChange={() => deal.refetch()}
        />
        <People list={d.people} dealId={id} />
      </header>
      <Filed
        of={{ deal: id }}
        above={<NoteLine kind="deal" id={id} />}
        empty={<p className="mx-auto mt-10 max-w-md text-ink-soft">No letters about this deal yet.</p>}
      />
      {open === "people" && <DealPeople deal={d} onClose={close} />}
      {open === "company" && (
        <CompanyDialog
          {...record}
          company={d.companyId ? { id: d.companyId, name: d.company } : null}
          onClose={close}
        />
      )}
      {open === "owner" && <OwnerDialog record={record} owner={d.ownerId} onClose={close} />}
      {open === "delete" && <DeleteRecord record={record} onClose={close} />}
      {inside && <Inside deal={d} onClose={() => setInside(false)} />}
    </div>
  );
}

function People({ list, dealId }: { list: Schemas["DealPerson"][]; dealId: number }) {
  const write = useWriting();
  return (
    <ul aria-label="People of the deal" className="mt-3 flex flex-wrap gap-x-6 gap-y-1 text-sm">
      {list.map((p) => (
        <li key={p.id}>
          <Link to={`/people/${p.id}`} className="font-serif text-base font-medium hover:underline">
            {p.name || p.email}
          </Link>{" "}
          <span className="text-ink-soft">{p.main ? "main contact" : p.jobTitle}</span>{" "}
          {p.email && (
            <button
              type="button"
              className="text-main hover:underline"
              onClick={() => write({ personId: p.id, dealId })}
              title={`Write to ${p.name || p.email}`}
            >
              {p.email}
            </button>
          )}
        </li>
      ))}
    </ul>
  );
}

/** Who of the colleagues, and with which template. */
function Inside({ deal, onClose }: { deal: Schemas["DealSheet"]; onClose: () => void }) {
  const go = useNavigate();
  const [to, setTo] = useState<number[] | null>(null);
  if (!to)
    return <Colleagues title="Write to colleagues" chosen={[]} onKeep={async (ids) => setTo(ids)} onClose={onClose} />;
  const start = async (templateId: number) => {
    const { data, error } = await api
      .POST("/api/deals/{id}/internal", {
        params: { path: { id: deal.id } },
        body: { colleagues: to, ...(templateId && { templateId }) },
      })
      .catch(noAnswer);
    if (data) go(`/letters/${data.id}`);
    else toast.error(wordsOf(error));
  };
  return (
    <Picker
      title={`To colleagues about ${deal.name}`}
      personId={deal.mainContactId ?? 0}
      dealId={deal.id}
      others={[blank]}
      act="Use this template"
      onPick={(c) => start(c.id)}
      onClose={onClose}
    />
  );
}
