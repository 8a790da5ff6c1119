import { PenLine } from "lucide-react";
import { useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { useHere, useWriting } from "../../app/writing";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { dayOf } from "../../components/time";
import { Picker } from "../find/Picker";
import { blank } from "../find/PickTemplate";
import { FiledLetter } from "../letters/FiledLetter";
import { Ledger } from "../people/Ledger";
import { Colleagues } from "./Colleagues";

/** A deal: its facts, its people, what happened; letters about it begin here, also those to colleagues. */
export function DealPage() {
  const id = Number(useParams().id);
  const [params, setParams] = useSearchParams();
  const write = useWriting();
  const [inside, setInside] = useState(false);
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
  const open = Number(params.get("letter")) || d.history.find((e) => e.kind === "sent" && e.letterId)?.letterId;
  const facts: [string, string][] = [
    ["Stage", d.stage],
    ["Amount", d.amount],
    ["Closes", d.closeDate && dayOf(d.closeDate)],
    ["Company", d.company],
    ...d.facts.map((f): [string, string] => [f.label, f.value]),
  ];
  return (
    <div className="flex min-h-full flex-col">
      <header className="border-b border-rule-strong bg-sheet px-4 pt-4 pb-3 sm:px-6">
        <div className="flex flex-wrap items-baseline gap-x-4 gap-y-2">
          <h1 className="font-serif text-3xl font-semibold">{d.name}</h1>
          <p className="text-ink-soft">Deal{d.owner && ` · looked after by ${d.owner}`}</p>
          <div className="ml-auto flex flex-wrap gap-2">
            <Button onClick={() => setInside(true)} disabled={!d.mainContactId}>
              Write to colleagues
            </Button>
            {d.mainContactId && (
              <Button look="main" onClick={() => write({ personId: d.mainContactId ?? 0, dealId: id })}>
                <PenLine size={15} aria-hidden /> Write to {d.contact}
              </Button>
            )}
          </div>
        </div>
        <dl className="mt-3 grid grid-cols-2 gap-x-6 gap-y-2 sm:grid-cols-3 lg:grid-cols-5">
          {facts
            .filter(([, value]) => value)
            .map(([label, value]) => (
              <div key={label} className="min-w-0">
                <dt className="text-sm text-ink-soft">{label}</dt>
                <dd className="truncate" title={value}>
                  {value}
                </dd>
              </div>
            ))}
        </dl>
        <People list={d.people} dealId={id} />
      </header>
      <div className="grid flex-1 grid-cols-1 lg:grid-cols-[22rem_minmax(0,1fr)]">
        <div className="order-2 border-rule lg:order-1 lg:border-r">
          {d.history.length === 0 && <p className="px-6 py-5 text-ink-soft">Nothing happened with this deal yet.</p>}
          <Ledger entries={d.history} open={open} onOpen={(letter) => setParams({ letter: String(letter) })} />
        </div>
        <div className="order-1 min-w-0 px-4 py-5 sm:px-8 lg:order-2">
          {open ? (
            <FiledLetter key={open} id={open} onGone={() => deal.refetch()} />
          ) : (
            <p className="mx-auto mt-10 max-w-md text-ink-soft">Nothing was written about this deal yet.</p>
          )}
        </div>
      </div>
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
      act="Write with this"
      onPick={(c) => start(c.id)}
      onClose={onClose}
    />
  );
}
