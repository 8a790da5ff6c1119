import { useQueryClient } from "@tanstack/react-query";
import { Mails, Route } from "lucide-react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { api, noAnswer, wordsOf } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { Actions } from "../../components/Actions";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import { Problem } from "../../components/Problem";
import { listOf, plural } from "../../components/plural";
import { ValueInput } from "../../components/ValueInput";
import { FieldSelect, useChangeable } from "../fields/FieldSelect";
import type { Starting } from "../plans/StartPage";
import { useRoundWith } from "../rounds/StartRound";
import type { Picked, Which } from "./usePicked";

/** Takes people out as a file, and says what of it was made safe. */
export async function exportPeople(which: Which & { ids?: number[] }, as: "csv" | "vcard") {
  const answer = await fetch("/api/people/export", {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ ...which, as }),
  }).catch(() => null);
  if (!answer?.ok) return void toast.error(wordsOf(await answer?.json().catch(() => ({}))));
  const link = document.createElement("a");
  link.href = URL.createObjectURL(await answer.blob());
  link.download = as === "csv" ? "people.csv" : "people.vcf";
  link.click();
  URL.revokeObjectURL(link.href);
  const safe = Number(answer.headers.get("X-Made-Safe"));
  if (safe > 0)
    toast.info(
      `${plural(safe, "cell begins", "cells begin")} like a formula; an apostrophe stands before ${safe === 1 ? "it" : "them"} so that no spreadsheet runs ${safe === 1 ? "it" : "them"}.`,
    );
}

/** What can be done with the people that are picked. */
export function PickedStrip({ picked, total }: { picked: Picked; total: number }) {
  const [changing, setChanging] = useState(false);
  const round = useRoundWith();
  const go = useNavigate();
  const ids = [...picked.ids];
  if (ids.length === 0) return null;
  return (
    <section
      aria-label="Selected people"
      className="flex flex-wrap items-center gap-x-4 gap-y-1 border-t border-rule-strong bg-ground px-4 py-2 sm:px-6"
    >
      <p role="status" className="text-sm">
        {plural(ids.length, "person", "people")} selected
      </p>
      <Problem>{round.problem}</Problem>
      {ids.length < Math.min(total, picked.most) && (
        <Button look="quiet" className="px-1! text-sm" onClick={() => void picked.all()}>
          Select all {total > picked.most ? `of the first ${picked.most}` : total}
        </Button>
      )}
      <Button look="quiet" className="px-1! text-sm" onClick={picked.clear}>
        Select nobody
      </Button>
      <span className="ml-auto flex items-center gap-2">
        <Button disabled={round.busy} onClick={() => void round.write(ids)}>
          <Mails size={15} aria-hidden /> Round
        </Button>
        <Button onClick={() => go("/start", { state: { people: ids } satisfies Starting })}>
          <Route size={15} aria-hidden /> Start a plan
        </Button>
        <Button onClick={() => setChanging(true)}>Change a field</Button>
        <Actions
          atFoot
          label="Export the selected people"
          items={[
            ["Save as CSV", () => void exportPeople({ ids }, "csv")],
            ["Save as vCard", () => void exportPeople({ ids }, "vcard")],
          ]}
        />
      </span>
      {changing && <ChangeMany ids={ids} onClose={() => setChanging(false)} />}
    </section>
  );
}

/** Gives a field of several people one value. */
function ChangeMany({ ids, onClose }: { ids: number[]; onClose: () => void }) {
  const queries = useQueryClient();
  const fields = useChangeable();
  const [path, setPath] = useState("");
  const [value, setValue] = useState("");
  const field = fields.find((f) => f.path === path);
  const { write, busy, problem } = useWrite(
    () => api.POST("/api/people/change", { body: { ids, path, value } }),
    async ({ people, same, undo, left }) => {
      await queries.invalidateQueries();
      onClose();
      const words = [
        `${plural(people, "person", "people")} changed`,
        same > 0 && `${same} had it already`,
        left.length > 0 &&
          `${plural(left.length, "other was", "others were")} left unchanged (${listOf([...new Set(left.map((l) => l.why))])})`,
      ];
      toast.success(`${listOf(words.filter((w) => w !== false))}.`, {
        duration: 15_000,
        ...(people > 0 && { action: { label: "Undo", onClick: () => void takeBack(undo) } }),
      });
    },
  );
  const takeBack = async (undo: number) => {
    const { data, error } = await api.POST("/api/people/change/undo", { body: { undo } }).catch(noAnswer);
    if (!data) return void toast.error(wordsOf(error));
    if (data.length > 0)
      toast.info(`Left as they are: ${listOf(data.slice(0, 5).map((l) => `${l.name} (${l.why})`))}.`);
    else toast.success("As it was before.");
    await queries.invalidateQueries();
  };
  return (
    <Modal
      title={`Change a field of ${plural(ids.length, "person", "people")}`}
      onClose={onClose}
      foot={
        <>
          <Problem>{problem}</Problem>
          <Button look="main" className="ml-auto" disabled={busy || !field} onClick={() => write()}>
            {value.trim() ? "Change it" : "Clear it"}
          </Button>
        </>
      }
    >
      <div className="mb-4">
        <FieldSelect
          label="Field"
          fields={fields}
          none="choose …"
          value={path}
          onChange={(chosen) => {
            setPath(chosen);
            setValue("");
          }}
        />
      </div>
      {field && (
        <div>
          <span className="block text-sm text-ink-soft">New value (empty clears it)</span>
          <ValueInput
            key={path}
            label="New value"
            type={field.type}
            choices={field.choices}
            value=""
            autoFocus={false}
            onTyped={setValue}
            onDone={(v) => {
              setValue(v);
            }}
          />
        </div>
      )}
    </Modal>
  );
}
