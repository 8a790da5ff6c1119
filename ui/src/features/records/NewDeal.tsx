import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { api } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { ChooseCompany, ChoosePerson, type Chosen, companyOf } from "./Choose";
import { RecordForm } from "./RecordForm";
import { typedIn, ValueLines } from "./ValueLines";

export const dealFirst = ["deal.name", "deal.stage", "deal.amount", "deal.close_date"];

/** Writes down a deal. */
export function NewDeal(props: { person?: Chosen; company?: Chosen; onClose: () => void }) {
  const go = useNavigate();
  const queries = useQueryClient();
  const [person, setPerson] = useState<Chosen | null>(props.person ?? null);
  const [company, setCompany] = useState<Chosen | null>(props.company ?? null);
  const { write, busy, problem } = useWrite(
    (values: Record<string, string>) =>
      api.POST("/api/records/deal", { body: { values, ...(person && { mainId: person.id }), ...companyOf(company) } }),
    async (made) => {
      await queries.invalidateQueries();
      props.onClose();
      toast.success("The deal was added.");
      if (made) go(`/deals/${made.id}`);
    },
  );
  return (
    <RecordForm
      title="New deal"
      button="Add the deal"
      busy={busy}
      problem={problem}
      onSubmit={(e) => void write(typedIn(e))}
      onClose={props.onClose}
    >
      <ValueLines of={["deal"]} first={dealFirst}>
        <ChoosePerson label="Main contact" value={person} onChoose={setPerson} />
        <ChooseCompany label="Company (the contact’s when empty)" value={company} onChoose={setCompany} />
      </ValueLines>
    </RecordForm>
  );
}
