import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { listOf } from "../../components/plural";
import { OnTheWayOn } from "../letters/OnTheWay";
import { ChoosePerson, type Chosen } from "./Choose";
import { RecordForm } from "./RecordForm";

type Side = Schemas["Side"];

/** Makes one record of two that are of one person; the one at hand stays. */
export function MergePeople({
  person,
  name,
  onClose,
}: {
  person: Schemas["Person"];
  name: string;
  onClose: () => void;
}) {
  const queries = useQueryClient();
  const split = useSplit();
  const [other, setOther] = useState<Chosen | null>(null);
  const { write, busy, problem } = useWrite(
    (take: string[]) =>
      api.POST("/api/people/{id}/merge", {
        params: { path: { id: person.id } },
        body: { version: person.version, otherId: other?.id ?? 0, take },
      }),
    async ({ id }) => {
      onClose();
      toast.success("Merged: there is one record now.", {
        action: { label: "Undo", onClick: () => void split(id) },
        duration: 20_000,
      });
      await queries.invalidateQueries();
    },
  );
  return (
    <RecordForm
      title={`Merge another record into ${name}`}
      button="Merge"
      busy={busy}
      off={!other}
      problem={problem}
      onSubmit={(e) => {
        const chosen = new FormData(e.currentTarget);
        void write([...chosen.keys()].filter((path) => chosen.get(path) === "gone"));
      }}
      onClose={onClose}
    >
      <p className="text-sm text-ink-soft">
        This record stays. The other’s letters, history, deals and tasks come to it, and the other record is deleted.
      </p>
      <ChoosePerson label="The other record" not={person.id} value={other} onChoose={setOther} />
      {other && (
        <OnTheWayOn
          kind="person"
          ids={[person.id, other.id]}
          becomes={(one) =>
            one
              ? "If it says something else than the record does then, or goes to another address, it stays here and says so."
              : "Those that say something else than the record does then, or go to another address, stay here and say so."
          }
        />
      )}
      {other && <Sides key={other.id} person={person} other={other} />}
    </RecordForm>
  );
}

/** The fields in which two records differ, side by side: which value stays is chosen in each line. */
function Sides({ person, other }: { person: Schemas["Person"]; other: Chosen }) {
  const sides = $api.useQuery(
    "get",
    "/api/people/{id}/twin/{other}",
    { params: { path: { id: person.id, other: other.id } } },
    { staleTime: 0 },
  );
  if (sides.error) return <p className="text-stop">{wordsOf(sides.error)}</p>;
  if (!sides.data) return <p className="text-ink-soft">Loading…</p>;
  if (sides.data.length === 0) return <p>Both records say the same in every field.</p>;
  return (
    <div>
      <div className="grid grid-cols-2 gap-x-4 border-b border-rule pb-1 text-sm text-ink-soft">
        <span>This record</span>
        <span>
          The other,{" "}
          <Link className="text-main underline" to={`/people/${other.id}`} target="_blank">
            {other.name}
          </Link>
        </span>
      </div>
      {sides.data.map((side) => (
        <Line key={side.path} side={side} />
      ))}
    </div>
  );
}

function Line({ side }: { side: Side }) {
  const first = side.kept === "" ? "gone" : "kept"; // what one has and the other lacks is taken
  return (
    <fieldset className="grid grid-cols-2 gap-x-4 border-b border-rule py-1">
      <legend className="col-span-2 text-sm text-ink-soft">{side.label}</legend>
      {(["kept", "gone"] as const).map((which) => (
        <label key={which} className="flex min-w-0 items-baseline gap-2">
          <input type="radio" name={side.path} value={which} defaultChecked={which === first} className="accent-main" />
          <span className="min-w-0 break-words">{side[which] || <em className="text-ink-soft">empty</em>}</span>
        </label>
      ))}
    </fieldset>
  );
}

/** Takes a merge back. */
function useSplit() {
  const queries = useQueryClient();
  return async (id: number) => {
    const { data, error } = await api.POST("/api/merges/{id}/undo", { params: { path: { id } } }).catch(noAnswer);
    if (!data) return void toast.error(wordsOf(error));
    toast.success("There are two records again.");
    if (data.length > 0) toast.info(`${listOf(data)} was changed since and stays.`);
    await queries.invalidateQueries();
  };
}
