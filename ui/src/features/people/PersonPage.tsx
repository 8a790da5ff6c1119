import { keepPreviousData } from "@tanstack/react-query";
import { useParams, useSearchParams } from "react-router";
import { $api, type Schemas } from "../../api/client";
import { useHere } from "../../app/writing";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { FiledLetter } from "../letters/FiledLetter";
import { ComesNext } from "../today/Tasks";
import { Facts } from "./Facts";
import { Ledger } from "./Ledger";

type Entry = Schemas["Entry"];

/** The letter to open when none was chosen: the latest one that went out. */
function latest(history: Entry[]): number | undefined {
  return history.find((e) => e.kind === "sent" && e.letterId)?.letterId;
}

export function PersonPage() {
  const id = Number(useParams().id);
  const [params, setParams] = useSearchParams();
  const path = { params: { path: { id } } };
  const person = $api.useQuery("get", "/api/people/{id}", path);
  const history = $api.useQuery(
    "get",
    "/api/people/{id}/history",
    { params: { path: { id }, query: { limit: 200 } } },
    { placeholderData: keepPreviousData },
  );
  useHere({ personId: id });
  if (person.isPending) return <Loading />;
  if (person.error)
    return (
      <div className="p-6">
        <ProblemText error={person.error} />
      </div>
    );
  const open = Number(params.get("letter")) || latest(history.data ?? []);
  return (
    <div className="flex min-h-full flex-col">
      <Facts sheet={person.data} />
      <div className="grid flex-1 grid-cols-1 lg:grid-cols-[22rem_minmax(0,1fr)]">
        <div className="order-2 border-rule lg:order-1 lg:border-r">
          <ProblemText error={history.error} />
          <ComesNext personId={id} />
          {history.data && (
            <Ledger entries={history.data} open={open} onOpen={(letter) => setParams({ letter: String(letter) })} />
          )}
        </div>
        <div className="order-1 min-w-0 px-4 py-5 sm:px-8 lg:order-2">
          {open ? (
            <FiledLetter key={open} id={open} onGone={() => history.refetch()} />
          ) : (
            history.data && <NoLetter name={person.data.name} />
          )}
        </div>
      </div>
    </div>
  );
}

function NoLetter({ name }: { name: string }) {
  return (
    <div className="mx-auto mt-10 max-w-md text-ink-soft">
      <p className="font-serif text-lg text-ink">Nothing was written to {name} yet.</p>
      <p className="mt-2">
        Press <kbd className="rounded-sm border border-rule-strong px-1.5 font-sans text-sm">w</kbd> to write the first
        letter.
      </p>
    </div>
  );
}
