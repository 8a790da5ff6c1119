import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { $api, api } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { Problem } from "../../components/Problem";
import { ProblemText } from "../../components/ProblemText";

/** The starter plans: each copied as a draft of one's own. */
export function PlanShelf() {
  const go = useNavigate();
  const queries = useQueryClient();
  const shelf = $api.useQuery("get", "/api/plan-shelf", {}, { staleTime: Number.POSITIVE_INFINITY });
  const copy = useWrite(
    (key: string) => api.POST("/api/plan-shelf/{key}", { params: { path: { key } } }),
    async (out) => {
      await queries.invalidateQueries({ queryKey: ["get", "/api/plans"] });
      go(`/plans/${out.id}`);
    },
  );
  if (shelf.isPending) return <Loading />;
  return (
    <>
      <ProblemText error={shelf.error} />
      <Problem>{copy.problem}</Problem>
      <ul className="grid gap-4 sm:grid-cols-2">
        {shelf.data?.map((p) => (
          <li key={p.key} className="flex flex-col border border-rule bg-sheet px-5 py-4">
            <span className="text-sm text-ink-soft">{p.moment}</span>
            <h2 className="font-serif text-lg font-semibold">{p.name}</h2>
            <p className="text-ink-soft">{p.whenToUse}</p>
            <ol className="my-2 list-decimal pl-5 text-sm text-ink-soft">
              {p.steps.map((s) => (
                <li key={s}>{s}</li>
              ))}
            </ol>
            <Button className="mt-auto self-start" disabled={copy.busy} onClick={() => void copy.write(p.key)}>
              Copy this plan<span className="sr-only">: {p.name}</span>
            </Button>
          </li>
        ))}
      </ul>
    </>
  );
}
