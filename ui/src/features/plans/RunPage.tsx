import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { toast } from "sonner";
import { $api, api, type Schemas } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { Problem } from "../../components/Problem";
import { ProblemText } from "../../components/ProblemText";
import { dayOf, inDays } from "../../components/time";
import type { Fills } from "./Asks";
import { NewWords } from "./NewWords";
import { RulerView } from "./RulerView";
import { type Run, stateNames } from "./words";

type Act = { act: "stop" | "pause" | "go on" | "skip" | "now" | "delay" | "remake"; to?: string };

/** One person going through a plan. */
export function RunPage() {
  const id = Number(useParams().id);
  const sheet = $api.useQuery("get", "/api/runs/{id}", { params: { path: { id } } }, { refetchInterval: 5000 });
  if (sheet.error && !sheet.data)
    return (
      <div className="p-6">
        <ProblemText error={sheet.error} />
      </div>
    );
  if (!sheet.data) return <Loading />;
  return <Sheet key={id} {...sheet.data} />;
}

function Sheet({ run, ruler }: Schemas["RunSheetOut"]) {
  const queries = useQueryClient();
  const path = { params: { path: { id: run.id } } };
  const fresh = () => queries.invalidateQueries();
  const act = useWrite((body: Act) => api.POST("/api/runs/{id}/act", { ...path, body }), fresh);
  const [fills, setFills] = useState<Fills>(run.fills ?? {});
  const asked = JSON.stringify(fills) !== JSON.stringify(run.fills ?? {});
  const answer = useWrite(
    () =>
      api.PUT("/api/runs/{id}/fills", {
        ...path,
        body: { fills: Object.fromEntries(Object.entries(fills).filter(([, v]) => v.trim() !== "")) },
      }),
    async () => {
      await fresh();
      toast.success("Saved for the letters to come.");
    },
  );
  const over = run.state === "finished" || run.state === "stopped";
  const next = ruler.steps.find((s) => !s.done);
  return (
    <div className="mx-auto w-full max-w-4xl px-3 pt-4 pb-10 sm:px-6">
      <div className="mb-1 flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1 className="font-serif text-2xl font-semibold">
          <Link to={`/people/${run.personId}`} className="hover:underline">
            {run.person}
          </Link>
        </h1>
        <span className="text-ink-soft">
          on{" "}
          <Link to={`/plans/${run.planId}`} className="text-main underline">
            {run.plan}
          </Link>
        </span>
        {!over && (
          <span className="ml-auto flex gap-2">
            {run.state === "going" && (
              <Button disabled={act.busy} onClick={() => void act.write({ act: "pause" })}>
                Pause
              </Button>
            )}
            {run.state === "paused" && (
              <Button look="main" disabled={act.busy} onClick={() => void act.write({ act: "go on" })}>
                Go on
              </Button>
            )}
            <Button disabled={act.busy} onClick={() => void act.write({ act: "stop" })}>
              Stop
            </Button>
          </span>
        )}
      </div>
      <State run={run} />
      <Problem>{act.problem}</Problem>
      {run.state === "waiting" && run.news && (
        <NewWords news={run.reason} of={{ plan: run.planId }}>
          Take them for everybody whom you have on this plan, or proofread this letter.
        </NewWords>
      )}
      {run.state === "waiting" && <Waiting run={run} busy={act.busy} act={(body) => void act.write(body)} />}
      <RulerView
        ruler={ruler}
        {...(!over && { fills, onFills: setFills })}
        {...(next &&
          run.state === "going" && {
            next: { key: next.key, acts: <NextActs busy={act.busy} act={(body) => void act.write(body)} /> },
          })}
      />
      {!over && asked && (
        <div className="sticky bottom-0 flex flex-wrap items-center gap-3 border-t border-rule-strong bg-ground py-2.5">
          <Problem>{answer.problem}</Problem>
          <Button look="main" className="ml-auto" disabled={answer.busy} onClick={() => void answer.write()}>
            Save the answers
          </Button>
        </div>
      )}
    </div>
  );
}

function State({ run }: { run: Run }) {
  const tone = run.state === "waiting" ? "text-advice" : run.state === "stopped" ? "text-stop" : "text-ink-soft";
  return (
    <p role="status" className={`mb-4 ${tone}`}>
      {stateNames[run.state]}
      {run.reason && run.state !== "waiting" && `: ${run.reason}`}
      {run.endedAt && ` · ${dayOf(run.endedAt)}`}
      {run.notBefore && run.state === "going" && ` · not before ${dayOf(run.notBefore)}`}
      <span className="text-ink-soft"> · started on {dayOf(run.startedAt)}</span>
    </p>
  );
}

/** What is open, and the ways to go on from it. */
function Waiting({ run, busy, act }: { run: Run; busy: boolean; act: (body: Act) => void }) {
  const draft = run.letterId && run.letterState === "draft";
  return (
    <section aria-label="Waiting for you" className="mb-5 border border-advice bg-advice-soft px-4 py-3">
      {!run.news && <p className="mb-2">{run.reason}.</p>}
      <div className="flex flex-wrap gap-2">
        {draft ? (
          <>
            <Link
              to={`/letters/${run.letterId}`}
              className="inline-flex min-h-8 items-center rounded-sm border border-main bg-main px-3 font-semibold text-on-main"
            >
              Proofread the letter
            </Link>
            <Button disabled={busy} onClick={() => act({ act: "remake" })}>
              Write it anew from the record
            </Button>
          </>
        ) : (
          <Button look="main" disabled={busy} onClick={() => act({ act: "go on" })}>
            Go on with the plan
          </Button>
        )}
        <Button disabled={busy} onClick={() => act({ act: "skip" })}>
          Skip this step
        </Button>
      </div>
    </section>
  );
}

function NextActs({ busy, act }: { busy: boolean; act: (body: Act) => void }) {
  const [to, setTo] = useState(() => inDays(7));
  return (
    <>
      <Button disabled={busy} onClick={() => act({ act: "now" })}>
        Do it now
      </Button>
      <Button disabled={busy} onClick={() => act({ act: "skip" })}>
        Skip it
      </Button>
      <span className="flex items-center gap-2">
        <Button disabled={busy || !to} onClick={() => act({ act: "delay", to })}>
          Not before
        </Button>
        <input
          type="date"
          aria-label="Not before this day"
          value={to}
          onChange={(e) => setTo(e.target.value)}
          className="border-b border-rule-strong bg-transparent py-1 outline-none focus:border-main"
        />
      </span>
    </>
  );
}
