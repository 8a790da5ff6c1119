import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { api } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { RecordForm } from "./RecordForm";
import { typedIn, ValueLines } from "./ValueLines";

const first = [
  "company.name",
  "company.website",
  "company.city",
  "company.country",
  "company.industry",
  "company.phone",
];

/** Writes down a company. */
export function NewCompany({ onClose }: { onClose: () => void }) {
  const go = useNavigate();
  const queries = useQueryClient();
  const { write, busy, problem } = useWrite(
    (values: Record<string, string>) => api.POST("/api/records/company", { body: { values } }),
    async ({ id }) => {
      await queries.invalidateQueries({ queryKey: ["get", "/api/companies"] });
      onClose();
      toast.success("The company was added.");
      go(`/companies/${id}`);
    },
  );
  return (
    <RecordForm
      title="New company"
      button="Add the company"
      busy={busy}
      problem={problem}
      onSubmit={(e) => void write(typedIn(e))}
      onClose={onClose}
    >
      <ValueLines of={["company"]} first={first} />
    </RecordForm>
  );
}
