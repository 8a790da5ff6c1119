import { useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { $api, api } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { Button } from "../../components/Button";
import { Problem } from "../../components/Problem";

type Props = {
  news: string;
  of: { plan: number } | { order: number; seen: string };
  children?: React.ReactNode;
};

/** The words of letters that go out by themselves were changed: they wait, and one look is enough for all of them. */
export function NewWords({ news, of, children }: Props) {
  const queries = useQueryClient();
  const plan = $api.useQuery(
    "get",
    "/api/plans/{id}",
    { params: { path: { id: "plan" in of ? of.plan : 0 } } },
    { enabled: "plan" in of },
  ).data;
  const seen = "plan" in of ? plan?.partSeen : of.seen;
  const take = useWrite(
    () =>
      "plan" in of
        ? api.POST("/api/plans/{id}/looked", { params: { path: { id: of.plan } }, body: { seen: seen ?? "" } })
        : api.POST("/api/orders/{id}/looked", { params: { path: { id: of.order } }, body: { seen: seen ?? "" } }),
    async () => {
      await queries.invalidateQueries();
      toast.success("Letters go with the new words. Those that you have written in stay as they are.");
    },
  );
  return (
    <div className="mb-4 border border-advice bg-advice-soft px-4 py-3">
      <p className="mb-2">
        {news}. {children ?? "Letters wait to be proofread until you have looked."}
      </p>
      <Button disabled={take.busy || seen === undefined} onClick={() => void take.write()}>
        Take the new words for everybody
      </Button>
      <Problem>{take.problem}</Problem>
    </div>
  );
}
