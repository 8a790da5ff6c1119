import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { toast } from "sonner";
import { $api, api, noAnswer, type Schemas, statusOf, wordsOf } from "../../api/client";
import { tellGone } from "../../api/gone";
import type { Plan, Step } from "./words";
import { stepIn } from "./words";

type Draft = { name: string; whenToUse: string; beside: boolean; steps: Step[] };

const draftOf = (p: Plan): Draft => ({
  name: p.name,
  whenToUse: p.whenToUse,
  beside: p.beside,
  steps: p.steps.map((s) => ({ ...s, id: `k${s.key}`, task: s.task as Step["task"] })),
});

const planIn = (d: Draft): Schemas["PlanIn"] => ({
  name: d.name,
  whenToUse: d.whenToUse,
  beside: d.beside,
  steps: d.steps.map(stepIn),
});

/** A plan as it is being written, and the ways to save it. */
export function usePlan(plan: Plan) {
  const queries = useQueryClient();
  const [base, setBase] = useState(plan);
  const [draft, setDraft] = useState(() => draftOf(plan));
  const [effects, setEffects] = useState<Schemas["Effects"] | null>(null);
  const [busy, setBusy] = useState(false);
  const added = useRef(0);
  const body = planIn(draft);
  const changed = JSON.stringify(body) !== JSON.stringify(planIn(draftOf(base)));

  /** Another window saved it: what is not changed here is taken from there. */
  if (plan.version !== base.version && !changed && !busy) {
    setBase(plan);
    setDraft(draftOf(plan));
  }
  const stale = plan.version > base.version && changed;

  const take = (p: Plan) => {
    queries.setQueryData($api.queryOptions("get", "/api/plans/{id}", { params: { path: { id: p.id } } }).queryKey, p);
    setBase(p);
    setDraft(draftOf(p));
    void queries.invalidateQueries({ queryKey: ["get", "/api/plans"] });
    void queries.invalidateQueries({ queryKey: ["get", "/api/runs"] });
  };
  const failed = (error: unknown) => {
    if (statusOf(error) === 404)
      tellGone("This plan", () => api.POST("/api/plans/{id}/put-back", { params: { path: { id: base.id } } }));
    else if (statusOf(error) === 409 && !(error as Schemas["ErrorModel"]).detail?.startsWith("Other people"))
      toast.error("This plan was changed in another window. Your changes are still here, and not saved.");
    else toast.error(wordsOf(error));
    return false;
  };
  const put = async (seen?: string) => {
    const { data, error } = await api
      .PUT("/api/plans/{id}", {
        params: { path: { id: base.id } },
        body: { ...body, version: base.version, ...(seen && { seen }) },
      })
      .catch(noAnswer);
    if (!data) return failed(error);
    take(data);
    toast.success("Saved.");
    return true;
  };
  /** Saves the plan; when people are on it, what happens to them is shown first. Tells whether it is saved. */
  const save = async (): Promise<boolean> => {
    if (busy) return false;
    if (!changed) return true;
    setBusy(true);
    try {
      const seen = await api
        .POST("/api/plans/{id}/effects", { params: { path: { id: base.id } }, body })
        .catch(noAnswer);
      if (!seen.data) return failed(seen.error);
      if (seen.data.people > 0) {
        setEffects(seen.data);
        return false;
      }
      return await put();
    } finally {
      setBusy(false);
    }
  };
  const confirm = async () => {
    if (busy || !effects) return;
    setBusy(true);
    const ok = await put(effects.seen);
    setBusy(false);
    if (ok) setEffects(null);
    else setEffects(null);
  };
  const set = (part: Partial<Draft>) => setDraft((d) => ({ ...d, ...part }));
  const setStep = (id: string, part: Partial<Step>) =>
    setDraft((d) => ({ ...d, steps: d.steps.map((s) => (s.id === id ? { ...s, ...part } : s)) }));
  const add = (kind: Step["kind"], after = draft.steps.length): string => {
    const id = `n${++added.current}`;
    const first = draft.steps.length === 0;
    const step: Step = {
      id,
      key: 0,
      kind,
      when: { days: first ? 0 : 3, working: true },
      words: "",
      same: kind === "letter" && draft.steps.some((s) => s.kind === "letter"),
      template: "",
      news: "",
      ownWording: false,
      subject: "",
      task: kind === "task" ? "call" : "",
    };
    setDraft((d) => ({ ...d, steps: [...d.steps.slice(0, after), step, ...d.steps.slice(after)] }));
    return id;
  };
  const remove = (id: string) => {
    const at = draft.steps.findIndex((s) => s.id === id);
    const step = draft.steps[at];
    if (!step) return;
    setDraft((d) => ({ ...d, steps: d.steps.filter((s) => s.id !== id) }));
    toast("Removed.", {
      action: {
        label: "Undo",
        onClick: () => setDraft((d) => ({ ...d, steps: [...d.steps.slice(0, at), step, ...d.steps.slice(at)] })),
      },
    });
  };
  /** Moves a step before another one, or with "" to the end. */
  const move = (id: string, before: string) =>
    setDraft((d) => {
      const step = d.steps.find((s) => s.id === id);
      if (!step || id === before) return d;
      const rest = d.steps.filter((s) => s.id !== id);
      const at = before ? rest.findIndex((s) => s.id === before) : rest.length;
      return { ...d, steps: [...rest.slice(0, at), step, ...rest.slice(at)] };
    });
  const moveBy = (id: string, by: -1 | 1) => {
    const at = draft.steps.findIndex((s) => s.id === id);
    const to = at + by;
    if (at < 0 || to < 0 || to >= draft.steps.length) return;
    move(id, draft.steps[by < 0 ? to : to + 1]?.id ?? "");
  };
  return {
    base,
    draft,
    body,
    changed,
    stale,
    busy,
    effects,
    set,
    setStep,
    add,
    remove,
    move,
    moveBy,
    save,
    confirm,
    take,
    back: () => setDraft(draftOf(base)),
    reload: () => {
      setBase(plan);
      setDraft(draftOf(plan));
    },
    leaveEffects: () => setEffects(null),
  };
}

export type Writing = ReturnType<typeof usePlan>;
