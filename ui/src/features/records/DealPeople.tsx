import { useQueryClient } from "@tanstack/react-query";
import { X } from "lucide-react";
import { useState } from "react";
import { api, type Schemas } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { ChoosePerson } from "./Choose";
import { RecordForm } from "./RecordForm";

type One = { id: number; name: string };

/** Says who is in a deal: one main contact and others. */
export function DealPeople({ deal, onClose }: { deal: Schemas["DealSheet"]; onClose: () => void }) {
  const queries = useQueryClient();
  const [people, setPeople] = useState<One[]>(() => deal.people.map((p) => ({ id: p.id, name: p.name || p.email })));
  const [main, setMain] = useState(deal.mainContactId ?? 0);
  const [added, setAdded] = useState(0); // the line is made anew when somebody was added
  const there = people.some((p) => p.id === main);
  const { write, busy, problem } = useWrite(
    () =>
      api.PUT("/api/deals/{id}/people", {
        params: { path: { id: deal.id } },
        body: { ...(there && { mainId: main }), otherIds: people.filter((p) => p.id !== main).map((p) => p.id) },
      }),
    async () => {
      await queries.invalidateQueries();
      onClose();
    },
  );
  return (
    <RecordForm
      title={`People of ${deal.name}`}
      button="Store the people"
      busy={busy}
      problem={problem}
      onSubmit={() => void write()}
      onClose={onClose}
    >
      <fieldset>
        <legend className="text-sm text-ink-soft">The main contact is marked</legend>
        {people.map((p) => (
          <div key={p.id} className="flex items-center gap-2 py-1">
            <label className="flex items-baseline gap-2">
              <input
                type="radio"
                name="main"
                className="accent-main"
                checked={p.id === main}
                onChange={() => setMain(p.id)}
              />
              <b className="font-serif">{p.name}</b>
            </label>
            <button
              type="button"
              aria-label={`Take ${p.name} out`}
              className="text-ink-soft hover:text-stop"
              onClick={() => setPeople(people.filter((x) => x.id !== p.id))}
            >
              <X size={15} aria-hidden />
            </button>
          </div>
        ))}
        {people.length === 0 && <p className="py-1 text-ink-soft">Nobody yet.</p>}
      </fieldset>
      <ChoosePerson
        key={added}
        label="Add somebody"
        value={null}
        onChoose={(p) => {
          if (!p || people.some((x) => x.id === p.id)) return;
          setPeople([...people, p]);
          if (!there) setMain(p.id);
          setAdded(added + 1);
        }}
      />
    </RecordForm>
  );
}
