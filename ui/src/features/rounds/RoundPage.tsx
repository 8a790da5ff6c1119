import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link, useParams } from "react-router";
import { api } from "../../api/client";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { plural } from "../../components/plural";
import { CheckStep } from "./CheckStep";
import { RoundWording } from "./RoundWording";
import { SendStep } from "./SendStep";
import { TemplateStep } from "./TemplateStep";
import { useShown } from "./useMembers";
import { useRound } from "./useRound";
import { WhoStep } from "./WhoStep";
import { type Round, type Step, stateWords, stepWords } from "./words";

const steps: [Step, string][] = [
  ["who", "Who"],
  ["template", "Template"],
  ["check", "Check"],
  ["send", "Send"],
];

/** A round in four steps, each saying what is missing: who, which template, check, send. */
export function RoundPage() {
  const id = Number(useParams().id);
  const { round, error, act, inOrder } = useRound(id);
  const shown = useShown();
  useFresh(round);
  if (error && !round)
    return (
      <div className="p-6">
        <ProblemText error={error} />
      </div>
    );
  if (!round) return <Loading />;
  const sent = round.state !== "open";
  const step = shown.step || (!round.template ? "template" : sent ? "send" : "check");
  const body = { round, shown, act };
  return (
    <div className={`flex flex-col ${step === "check" ? "min-h-full lg:h-full" : "min-h-full"}`}>
      <header className="border-b border-rule-strong bg-sheet px-4 pt-3 sm:px-6">
        <div className="flex flex-wrap items-baseline gap-x-4">
          <h1 className="font-serif text-2xl font-semibold">{round.name}</h1>
          <p className="text-ink-soft">
            Round to {plural(round.total, "person", "people")} · {stateWords(round).toLowerCase()}
            {round.recipe && ` · recipe “${round.recipe}”`}
          </p>
          <Link to="/rounds" className="ml-auto text-main hover:underline">
            All rounds
          </Link>
        </div>
        <nav aria-label="Steps" className="-mb-px flex overflow-x-auto">
          {steps.map(([key, name], i) => {
            const { words, missing } = stepWords(round, key);
            const here = step === key || (step === "wording" && key === "template");
            return (
              <button
                key={key}
                type="button"
                aria-current={here ? "step" : undefined}
                onClick={() => shown.set({ step: key })}
                className={`mr-4 min-w-0 border-b-3 py-1.5 text-left sm:mr-8 ${here ? "border-main" : "border-transparent hover:border-rule-strong"}`}
              >
                <span className={`whitespace-nowrap ${here ? "font-semibold text-main" : ""}`}>
                  {i + 1} {name}
                </span>
                <span
                  className={`block max-w-52 truncate text-sm ${missing ? "font-semibold text-stop" : "text-ink-soft"}`}
                >
                  {words}
                </span>
              </button>
            );
          })}
        </nav>
      </header>
      <TemplateNews {...body} />
      {round.look && step === "check" && (
        <p className="border-b border-rule bg-main-soft px-4 py-1.5 sm:px-6">
          <b>Before you send:</b> {round.look}
        </p>
      )}
      {step === "who" && <WhoStep {...body} />}
      {step === "template" && <TemplateStep {...body} />}
      {step === "wording" && <RoundWording {...body} />}
      {step === "check" && (round.template ? <CheckStep {...body} inOrder={inOrder} /> : <TemplateStep {...body} />)}
      {step === "send" && <SendStep {...body} />}
    </div>
  );
}

type Body = { round: Round; shown: ReturnType<typeof useShown>; act: ReturnType<typeof useRound>["act"] };

/** Says that the template was changed or withdrawn meanwhile; the sender decides which wording goes. */
function TemplateNews({ round, act, shown }: Body) {
  const ownNews = round.partNews;
  if (!round.templateNews && !ownNews) return null;
  const path = { params: { path: { id: round.id }, query: { version: round.version } } };
  return (
    <div
      role="alert"
      className="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule bg-stop-soft px-4 py-2 sm:px-6"
    >
      <p>
        {ownNews ? (
          `${ownNews}.`
        ) : (
          <>
            The template “{round.template}” {round.templateNews}. Which wording goes?
          </>
        )}
      </p>
      <span className="flex flex-wrap gap-2">
        <Button
          onClick={() =>
            void act(api.POST("/api/rounds/{id}/template/keep", path), ownNews ? "" : "This round keeps its wording.")
          }
        >
          {ownNews ? "That’s fine" : "Keep this wording"}
        </Button>
        {(round.templateNews.startsWith("was changed") || ownNews.includes(" wording ")) &&
        round.templateId !== undefined ? (
          <Button
            disabled={round.state === "sending"}
            onClick={() =>
              void act(
                api.PUT("/api/rounds/{id}/template", { ...path, body: { templateId: round.templateId ?? 0 } }),
                "The new wording. Look at the letters again.",
              )
            }
          >
            Take the new one
          </Button>
        ) : (
          <Button onClick={() => shown.set({ step: "template" })}>Choose another template</Button>
        )}
      </span>
    </div>
  );
}

/** People and letters are asked for anew whenever something moved in the round. */
function useFresh(round: Round | undefined) {
  const queries = useQueryClient();
  const moved = round ? JSON.stringify([round.version, round.groups, round.working]) : "";
  useEffect(() => {
    if (!moved) return;
    void queries.invalidateQueries({ queryKey: ["get", "/api/rounds/{id}/people"] });
    // A letter that was fetched ahead may say something else by now; it is not shown, not even for a moment.
    queries.removeQueries({ queryKey: ["get", "/api/rounds/{id}/people/{person}"], type: "inactive" });
    void queries.invalidateQueries({ queryKey: ["get", "/api/rounds/{id}/people/{person}"] });
  }, [moved, queries]);
}
