import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { api } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { ChooseCompany, type Chosen, companyOf } from "./Choose";
import { RecordForm } from "./RecordForm";

type Props = { kind: "person" | "deal"; id: number; name: string; company: Chosen | null; onClose: () => void };

/** Says for whom a contact works, or with whom a deal is. */
export function CompanyDialog(props: Props) {
  const { kind, id, name, onClose } = props;
  const queries = useQueryClient();
  const [company, setCompany] = useState(props.company);
  const { write, busy, problem } = useWrite(
    () => api.PUT("/api/records/{kind}/{id}/company", { params: { path: { kind, id } }, body: companyOf(company) }),
    async () => {
      await queries.invalidateQueries();
      onClose();
      toast.success(company ? `${name}: ${company.name}.` : `${name} has no company now.`);
    },
  );
  return (
    <RecordForm
      title={`Company of ${name}`}
      button="Change the company"
      busy={busy}
      problem={problem}
      onSubmit={() => void write()}
      onClose={onClose}
    >
      <ChooseCompany label="Company (empty for none)" value={company} onChoose={setCompany} />
    </RecordForm>
  );
}
