import { DndContext, type DragEndEvent, PointerSensor, pointerWithin, useSensor, useSensors } from "@dnd-kit/core";
import { useQueryClient } from "@tanstack/react-query";
import { Mail, MessageSquare, Play, SquareCheck } from "lucide-react";
import { useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, statusOf, wordsOf } from "../../api/client";
import { useCtrlKey } from "../../app/keys";
import { useUnsaved } from "../../app/unsaved";
import { useSettledValue } from "../../app/useSettledValue";
import { Actions } from "../../components/Actions";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { Modal } from "../../components/Modal";
import { ProblemText } from "../../components/ProblemText";
import { plural } from "../../components/plural";
import { RightsDialog } from "../library/RightsDialog";
import { ChoosePerson, type Chosen } from "../records/Choose";
import { EffectsDialog } from "./EffectsDialog";
import { NewWords } from "./NewWords";
import { PeopleOn } from "./PeopleOn";
import { StepLine } from "./StepLine";
import { usePlan, type Writing } from "./usePlan";
import type { Plan, Step } from "./words";

/** A plan: its steps on a vertical ruler of days, with real dates beside them; people on it in the margin. */
export function PlanPage() {
  const id = Number(useParams().id);
  const plan = $api.useQuery("get", "/api/plans/{id}", { params: { path: { id } } }, { refetchInterval: 10_000 });
  if (plan.error && !plan.data)
    return (
      <div className="p-6">
        <ProblemText error={plan.error} />
      </div>
    );
  if (!plan.data) return <Loading />;
  return <Sheet key={id} plan={plan.data} />;
}

function Sheet({ plan }: { plan: Plan }) {
  const go = useNavigate();
  const w = usePlan(plan);
  const { draft, changed } = w;
  const [open, setOpen] = useState("");
  const [person, setPerson] = useState<Chosen | null>(null);
  const past = useRef(false);
  const may = plan.mayEdit;
  useCtrlKey("Enter", () => void w.save());
  const dates = useDates(plan, w.body, person);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 5 } }));
  const add = (kind: Step["kind"]) => {
    const id = w.add(kind);
    setOpen(id);
    requestAnimationFrame(() => {
      const form = document.querySelector(`[data-step="${id}"]`)?.closest("li");
      form?.querySelector<HTMLElement>("input, select, textarea")?.focus();
    });
  };
  const dropped = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const from = draft.steps.findIndex((s) => s.id === active.id);
    const to = draft.steps.findIndex((s) => s.id === over.id);
    w.move(String(active.id), String(from < to ? (draft.steps[to + 1]?.id ?? "") : over.id));
  };
  /** The wording is edited on a screen of its own: what is written here is saved before. */
  const write = async (step: Step) => {
    const at = draft.steps.indexOf(step);
    if (!(await w.save())) return;
    const now = await api.GET("/api/plans/{id}", { params: { path: { id: plan.id } } }).catch(noAnswer);
    const key = now.data?.steps[at]?.key;
    if (key) go(`/plans/${plan.id}/steps/${key}`);
  };
  const wrong = (s: Step) => plan.wrong.find((x) => x.key === s.key && s.key > 0)?.why ?? "";
  useUnsaved(changed, "this plan", past);
  return (
    <div className="flex min-h-full flex-col">
      <h1 className="sr-only">{plan.name}</h1>
      <Head plan={plan} writing={w} onLeave={() => (past.current = true)} />
      <div className="mx-auto grid w-full max-w-6xl flex-1 gap-x-9 gap-y-8 px-3 pt-5 pb-10 sm:px-6 lg:grid-cols-[minmax(0,1fr)_17rem]">
        <div className="min-w-0">
          <div className="mb-5 grid gap-x-6 gap-y-3 sm:grid-cols-2">
            <label className="block sm:col-span-2">
              <span className="sr-only">Name of the plan</span>
              <input
                value={draft.name}
                readOnly={!may}
                maxLength={120}
                onChange={(e) => w.set({ name: e.target.value })}
                className="w-full border-b border-transparent bg-transparent font-serif text-2xl font-semibold outline-none hover:border-rule-strong focus:border-main"
              />
            </label>
            <label className="block">
              <span className="block text-sm text-ink-soft">When to use</span>
              <input
                value={draft.whenToUse}
                readOnly={!may}
                maxLength={400}
                onChange={(e) => w.set({ whenToUse: e.target.value })}
                className="min-h-9 w-full border-b border-rule-strong bg-transparent outline-none focus:border-main"
              />
            </label>
            <ChoosePerson label="Show the dates for" value={person} onChoose={setPerson} />
          </div>
          {plan.partNews && <NewWords news={plan.partNews} of={{ plan: plan.id }} />}
          <ProblemText error={dates.error} />
          {dates.data && !dates.data.zoneKnown && (
            <p className="mb-3 text-sm text-ink-soft">
              No time zone is known for {dates.data.person}: yours counts ({dates.data.zone}).
            </p>
          )}
          {draft.steps.length === 0 && (
            <p className="mb-4 border border-rule bg-sheet px-5 py-6 text-ink-soft">
              A plan is a series of letters and tasks, each some days after the one before. Add the first step.
            </p>
          )}
          <DndContext sensors={sensors} collisionDetection={pointerWithin} onDragEnd={dropped}>
            <ol aria-label="Steps">
              {draft.steps.map((s, i) => (
                <StepLine
                  key={s.id}
                  step={s}
                  at={i}
                  plan={w}
                  open={open === s.id}
                  mayEdit={may}
                  date={dates.data?.steps[i]}
                  wrong={wrong(s)}
                  onOpen={(on) => setOpen(on ? s.id : "")}
                  onWrite={() => void write(s)}
                />
              ))}
            </ol>
          </DndContext>
          {may && (
            <div className="mt-3 flex flex-wrap gap-2 pl-[4.75rem] sm:pl-[7.5rem]">
              <Button onClick={() => add("letter")}>
                <Mail size={15} aria-hidden /> Add a letter
              </Button>
              <Button onClick={() => add("task")}>
                <SquareCheck size={15} aria-hidden /> Add a task
              </Button>
              <Button onClick={() => add("text")}>
                <MessageSquare size={15} aria-hidden /> Add a text message
              </Button>
            </div>
          )}
          {may && (
            <label className="mt-5 flex items-baseline gap-2 pl-[4.75rem] sm:pl-[7.5rem]">
              <input type="checkbox" checked={draft.beside} onChange={(e) => w.set({ beside: e.target.checked })} />
              <span>People can be on this plan while they are on another one</span>
            </label>
          )}
        </div>
        <PeopleOn plan={plan} />
      </div>
      {may && (
        <section
          aria-label="Save"
          className="sticky bottom-0 z-20 flex flex-wrap items-center gap-3 border-t border-rule-strong bg-ground px-4 py-2.5 sm:px-6"
        >
          <p role="status" className="text-sm text-ink-soft">
            {w.stale
              ? "This plan was changed in another window."
              : changed
                ? "Not saved yet"
                : `${plural(draft.steps.length, "step")}, saved`}
          </p>
          {w.stale && (
            <Button look="quiet" onClick={w.reload}>
              Drop my changes and show the other ones
            </Button>
          )}
          <span className="ml-auto flex gap-3">
            {changed && (
              <Button look="quiet" onClick={w.back}>
                Undo my changes
              </Button>
            )}
            <Button look="main" disabled={!changed || w.busy || w.stale} onClick={() => void w.save()}>
              Save the plan
            </Button>
          </span>
        </section>
      )}
      {w.effects && (
        <EffectsDialog effects={w.effects} busy={w.busy} onSave={() => void w.confirm()} onClose={w.leaveEffects} />
      )}
    </div>
  );
}

/** The dates of the steps as they are written, for one person. */
function useDates(plan: Plan, body: ReturnType<typeof usePlan>["body"], person: Chosen | null) {
  const steps = useSettledValue(JSON.stringify(body.steps), 300);
  const written = { name: plan.name, steps: JSON.parse(steps) as typeof body.steps };
  return $api.useQuery(
    "post",
    "/api/plans/{id}/ruler",
    { params: { path: { id: plan.id } }, body: { personId: person?.id ?? 0, written } },
    { enabled: !!person && written.steps.length > 0, placeholderData: (d) => d, retry: false },
  );
}

const stateWords = { draft: "Draft", ready: "Ready", withdrawn: "Withdrawn" } as const;

/** What is done with the whole plan. */
function Head({ plan, writing, onLeave }: { plan: Plan; writing: Writing; onLeave: () => void }) {
  const { changed, save: onSave, body } = writing;
  const go = useNavigate();
  const queries = useQueryClient();
  const [rights, setRights] = useState(false);
  const [deleting, setDeleting] = useState(false);
  const path = { params: { path: { id: plan.id } } };
  const fresh = () => queries.invalidateQueries();
  const setState = async (state: Plan["state"]) => {
    if (changed && !(await onSave())) return;
    const now = await api.GET("/api/plans/{id}", path).catch(noAnswer);
    if (!now.data) return void toast.error(wordsOf(now.error));
    const { error } = await api
      .PUT("/api/plans/{id}/state", { ...path, body: { state, version: now.data.version } })
      .catch(noAnswer);
    if (error) toast.error(wordsOf(error));
    else toast.success(state === "ready" ? "Ready: people can be started on it." : `${stateWords[state]}.`);
    await fresh();
  };
  const copy = async () => {
    const { data, error } = await api.POST("/api/plans/{id}/copy", path).catch(noAnswer);
    if (!data) return void toast.error(wordsOf(error));
    if (changed) {
      // What was changed here is in the new one; this one stays as it was saved.
      const saved = await api
        .PUT("/api/plans/{id}", {
          params: { path: { id: data.id } },
          body: { ...body, name: body.name === plan.name ? data.name : body.name, version: data.version },
        })
        .catch(noAnswer);
      if (saved.error) {
        await api.DELETE("/api/plans/{id}", { params: { path: { id: data.id } } }).catch(noAnswer);
        return void toast.error(wordsOf(saved.error));
      }
      onLeave();
    }
    toast.success(changed ? "Saved as a new plan." : "Copied. This is your copy.");
    await fresh();
    go(`/plans/${data.id}`);
  };
  const putBack = async () => {
    await api.POST("/api/plans/{id}/put-back", path).catch(noAnswer);
    await fresh();
  };
  const on = plan.counts.going + plan.counts.waiting + plan.counts.paused;
  const remove = async () => {
    const { error } = await api.DELETE("/api/plans/{id}", path).catch(noAnswer);
    if (error) return void toast.error(wordsOf(error));
    toast.success(`“${plan.name}” is deleted${on > 0 ? `; ${plural(on, "person was", "people were")} stopped` : ""}.`, {
      action: { label: "Undo", onClick: () => void putBack() },
    });
    await queries.invalidateQueries({ queryKey: ["get", "/api/plans"] });
    go("/plans");
  };
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule px-4 py-2.5 sm:px-6">
      <Link to="/plans" className="text-main hover:underline">
        Plans
      </Link>
      <span className={plan.state === "ready" ? "font-semibold text-ok" : "text-ink-soft"}>
        {stateWords[plan.state]}
      </span>
      <span className="text-sm text-ink-soft">Owner: {plan.owner}</span>
      <span className="ml-auto flex items-center gap-2">
        {plan.mayEdit && plan.state !== "ready" && (
          <Button onClick={() => void setState("ready")}>
            {plan.state === "draft" ? "Make it ready" : "Use it again"}
          </Button>
        )}
        <Button
          look="main"
          disabled={!plan.mayUse || plan.state !== "ready" || changed}
          title={plan.state === "ready" ? undefined : "Make the plan ready first"}
          onClick={() => go(`/plans/${plan.id}/start`)}
        >
          <Play size={15} aria-hidden /> Start people
        </Button>
        <Actions
          label="More about this plan"
          items={[
            [changed ? "Save as a new plan" : "Copy as a new plan", () => void copy()],
            ...(plan.mayEdit
              ? ([
                  ...(plan.state === "ready"
                    ? ([
                        ["Back to draft", () => void setState("draft")],
                        ["Withdraw", () => void setState("withdrawn")],
                      ] as const)
                    : []),
                  ["Who can use it", () => setRights(true)],
                  null,
                  ["Delete", () => (on > 0 ? setDeleting(true) : void remove())],
                ] as const)
              : []),
          ]}
        />
      </span>
      {deleting && (
        <Modal
          title={`Delete “${plan.name}”?`}
          onClose={() => setDeleting(false)}
          foot={
            <>
              <Button look="main" onClick={() => void remove()}>
                Delete the plan and stop {plural(on, "person", "people")}
              </Button>
              <Button look="quiet" onClick={() => setDeleting(false)}>
                Keep it
              </Button>
            </>
          }
        >
          <p>
            {plural(on, "person is", "people are")} going through it. They are stopped: no further letter or task of it
            comes. The plan can be restored; the people have to be started again.
          </p>
        </Modal>
      )}
      {rights && (
        <RightsDialog
          title={`Who can use “${plan.name}”`}
          own={plan.rights}
          inside="everywhere: everybody"
          onStore={async (r) => {
            const { error } = await api.PUT("/api/plans/{id}/rights", { ...path, body: r }).catch(noAnswer);
            if (error) toast.error(statusOf(error) === 409 ? "It was changed meanwhile; try again." : wordsOf(error));
            await fresh();
            return !error;
          }}
          onClose={() => setRights(false)}
        />
      )}
    </div>
  );
}
