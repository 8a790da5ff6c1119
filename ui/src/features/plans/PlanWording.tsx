import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, statusOf, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { WordingEditor } from "../templates/WordingEditor";

/** The words of one letter of a plan; its template stays as it is. */
export function PlanWording() {
  const go = useNavigate();
  const queries = useQueryClient();
  const { id: plan, step } = useParams();
  const id = Number(plan);
  const key = Number(step);
  const [seen, setSeen] = useState<number | null>(null);
  const sheet = $api.useQuery("get", "/api/plans/{id}", { params: { path: { id } } }, { staleTime: 0 });
  const path = { id, step: key };
  const wording = $api.useQuery(
    "get",
    "/api/plans/{id}/steps/{step}/wording",
    { params: { path } },
    { staleTime: 0, gcTime: 0, refetchOnWindowFocus: false, enabled: key > 0 },
  );
  const error = wording.error ?? sheet.error;
  if (error)
    return (
      <div className="p-6">
        <ProblemText error={error} />
      </div>
    );
  if (!wording.data || !sheet.data) return <Loading />;
  const at = sheet.data.steps.findIndex((s) => s.key === key);
  const one = sheet.data.steps[at];
  const version = seen ?? sheet.data.version;
  if (seen === null) setSeen(version); // what is saved was made on this one, whatever comes meanwhile
  const leave = () => go(`/plans/${id}`);
  const fail = (problem: unknown) =>
    toast.error(
      statusOf(problem) === 409
        ? "The plan was changed in another window. Your words are still here; load the plan there and save again."
        : wordsOf(problem),
    );
  const drop = async () => {
    const { error } = await api
      .DELETE("/api/plans/{id}/steps/{step}/wording", { params: { path, query: { version } } })
      .catch(noAnswer);
    if (error) return void fail(error);
    await queries.invalidateQueries({ queryKey: ["get", "/api/plans/{id}"] });
    toast.success("The template’s words are used again.");
    leave();
  };
  const on = sheet.data.counts.going + sheet.data.counts.waiting + sheet.data.counts.paused;
  return (
    <div className="flex min-h-full flex-col">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule px-4 py-2.5 sm:px-6">
        <Link to={`/plans/${id}`} className="text-main hover:underline">
          {sheet.data.name}
        </Link>
        <span>Letter of step {at + 1}</span>
        {one?.ownWording && one.templateId && (
          <Button look="quiet" className="ml-auto" onClick={() => void drop()}>
            Use the template’s words again
          </Button>
        )}
      </div>
      <WordingEditor
        first={wording.data}
        lead={`For this plan only.${one?.template && one.templateId ? ` The template “${one.template}” stays as it is.` : ""}${on > 0 ? " People on the plan who have not had this letter yet get these words." : ""}`}
        name="Wording for this plan"
        act="Use it for this plan"
        leave="Leave it as it was"
        templateId={one?.templateId ?? 0}
        onSave={async (body) => {
          const { error } = await api
            .PUT("/api/plans/{id}/steps/{step}/wording", {
              params: { path, query: { version } },
              body,
            })
            .catch(noAnswer);
          if (error) {
            fail(error);
            return false;
          }
          await queries.invalidateQueries({ queryKey: ["get", "/api/plans/{id}"] });
          toast.success("Saved for this plan.");
          return true;
        }}
        onDone={leave}
        onLeave={leave}
      />
    </div>
  );
}
