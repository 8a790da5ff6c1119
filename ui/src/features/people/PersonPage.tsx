import { useParams } from "react-router";
import { $api } from "../../api/client";
import { useHere } from "../../app/writing";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { NoteLine } from "../records/NoteLine";
import { ComesNext } from "../today/Tasks";
import { Facts } from "./Facts";
import { Filed } from "./Filed";

export function PersonPage() {
  const id = Number(useParams().id);
  const person = $api.useQuery("get", "/api/people/{id}", { params: { path: { id } } });
  useHere({ personId: id });
  if (person.isPending) return <Loading />;
  if (person.error)
    return (
      <div className="p-6">
        <ProblemText error={person.error} />
      </div>
    );
  return (
    <div className="flex min-h-full flex-col">
      <Facts sheet={person.data} />
      <Filed
        of={{ person: id }}
        above={
          <>
            <ComesNext personId={id} />
            <NoteLine kind="person" id={id} />
          </>
        }
        empty={<NoLetter name={person.data.name} />}
      />
    </div>
  );
}

function NoLetter({ name }: { name: string }) {
  return (
    <div className="mx-auto mt-10 max-w-md text-ink-soft">
      <p className="font-serif text-lg text-ink">No letters to {name} yet.</p>
      <p className="mt-2">
        Press <kbd className="rounded-sm border border-rule-strong px-1.5 font-sans text-sm">w</kbd> to write the first
        letter.
      </p>
    </div>
  );
}
