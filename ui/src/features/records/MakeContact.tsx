import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { listOf } from "../../components/plural";
import { ChooseCompany, type Chosen, companyOf } from "./Choose";
import { dealFirst } from "./NewDeal";
import { RecordForm } from "./RecordForm";
import { typedIn, ValueLines } from "./ValueLines";

const upper = (words: string) => words.charAt(0).toUpperCase() + words.slice(1);

/** Makes a contact of a lead, with a deal or without. */
export function MakeContact({ person, onClose }: { person: Schemas["Person"]; onClose: () => void }) {
  const queries = useQueryClient();
  const name = `${person.firstName} ${person.lastName}`.trim() || person.email;
  const [company, setCompany] = useState<Chosen | null>(
    person.companyName ? { id: 0, name: person.companyName } : null,
  );
  const [deal, setDeal] = useState(false);
  const { write, busy, problem } = useWrite(
    (values: Record<string, string>) =>
      api.POST("/api/people/{id}/contact", {
        params: { path: { id: person.id } },
        body: { version: person.version, ...companyOf(company), ...(deal && { deal: values }) },
      }),
    async ({ left, undo }) => {
      await queries.invalidateQueries();
      onClose();
      toast.success(`${name} is a contact now. Letters and history are unchanged.`, {
        duration: 15_000,
        action: { label: "Undo", onClick: () => void takeBack(undo) },
      });
      if (left.length > 0)
        toast.info(`${listOf(left)} ${left.length === 1 ? "has" : "have"} no field on contacts; kept, but not shown.`);
    },
  );
  const takeBack = async (undo: number) => {
    const { data, error } = await api
      .POST("/api/people/{id}/contact/undo", { params: { path: { id: person.id } }, body: { undo } })
      .catch(noAnswer);
    if (!data) return void toast.error(wordsOf(error));
    await queries.invalidateQueries();
    if (data.length > 0) toast.info(`${name} is a lead again. ${upper(listOf(data))}, stays.`);
    else toast.success(`${name} is a lead again, as before.`);
  };
  return (
    <RecordForm
      title={`Make ${name} a contact`}
      button="Make a contact"
      busy={busy}
      problem={problem}
      onSubmit={(e) => void write(typedIn(e))}
      onClose={onClose}
    >
      <p className="text-sm text-ink-soft">
        History, letters and personal fields stay. Where the lead’s own fields go is set under Settings.
      </p>
      <ChooseCompany label="Company" value={company} onChoose={setCompany} />
      <label className="flex items-baseline gap-2">
        <input type="checkbox" className="accent-main" checked={deal} onChange={(e) => setDeal(e.target.checked)} />
        Begin a deal with them
      </label>
      {deal && <ValueLines of={["deal"]} first={dealFirst} />}
    </RecordForm>
  );
}
