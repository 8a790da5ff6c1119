import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { times } from "../../components/plural";
import { dueOf, momentOf } from "../../components/time";
import { TimeDialog } from "./TimeDialog";

type Letter = Pick<Schemas["LetterOut"], "id" | "state" | "reason" | "dueAt" | "sentAt" | "attempts">;
type Step = "retry" | "take-back" | "arrived" | "cancel" | "time" | "again";

export function stateWords(l: Letter): string {
  switch (l.state) {
    case "waiting":
      return l.attempts > 0 && l.dueAt
        ? `Waiting, tried ${times(l.attempts)}; next at ${dueOf(l.dueAt)}`
        : l.dueAt
          ? `Waiting to go: ${dueOf(l.dueAt)}`
          : "Waiting to go";
    case "sending":
      return "Being sent";
    case "sent":
      return l.sentAt ? `Sent ${momentOf(l.sentAt)}` : "Sent";
    case "refused":
      return "Refused";
    case "unsure":
      return "Not known whether it arrived";
    case "cancelled":
      return "Cancelled";
  }
  return "Draft";
}

/** The steps that a state allows, as buttons that do them. */
export function LetterSteps({ letter, onChanged }: { letter: Letter; onChanged: () => void }) {
  const go = useNavigate();
  const queries = useQueryClient();
  const [timing, setTiming] = useState(false);
  const changed = () => {
    queries.invalidateQueries({ queryKey: ["get", "/api/letters"] });
    queries.invalidateQueries({ queryKey: ["get", "/api/open-letters"] });
    queries.invalidateQueries({ queryKey: ["get", "/api/letters/{id}/steps"] });
    onChanged();
  };
  const take = async (step: Step) => {
    if (step === "time") return setTiming(true);
    const path = { params: { path: { id: letter.id } } };
    if (step === "again") {
      const { data, error } = await api.POST("/api/letters/{id}/again", path).catch(noAnswer);
      if (!data) return void toast.error(wordsOf(error));
      void queries.invalidateQueries({ queryKey: ["get", "/api/open-letters"] });
      return void go(`/letters/${data.id}`);
    }
    const call = {
      retry: () => api.POST("/api/letters/{id}/retry", path),
      "take-back": () => api.POST("/api/letters/{id}/take-back", path),
      arrived: () => api.POST("/api/letters/{id}/arrived", path),
      cancel: () => api.POST("/api/letters/{id}/cancel", path),
    }[step];
    const { error } = await call();
    if (error) toast.error(wordsOf(error));
    else if (step === "take-back") go(`/letters/${letter.id}`);
    changed();
  };
  const steps: Record<string, [Step, string][]> = {
    waiting: [
      ["retry", letter.attempts > 0 ? "Try now" : "Send now"],
      ["time", "Change time"],
      ["take-back", "Take back"],
      ["cancel", "Cancel"],
    ],
    refused: [
      ["retry", "Try again"],
      ["take-back", "Take back and edit"],
      ["cancel", "Cancel"],
    ],
    cancelled: [["again", "Write it again"]],
    unsure: [
      ["arrived", "It arrived"],
      ["retry", "Send again"],
      ["cancel", "Cancel"],
    ],
  };
  return (
    <>
      {(steps[letter.state] ?? []).map(([step, name]) => (
        <Button key={step} onClick={() => take(step)}>
          {name}
        </Button>
      ))}
      {timing && <TimeDialog id={letter.id} onDone={changed} onClose={() => setTiming(false)} />}
    </>
  );
}

export function StateLine({ letter, onChanged }: { letter: Letter; onChanged: () => void }) {
  if (letter.state === "sent") return null;
  const bad = letter.state === "refused" || letter.state === "unsure";
  return (
    <div
      role="status"
      className={`mb-3 border-l-3 px-3 py-2 ${bad ? "border-stop bg-stop-soft" : "border-main bg-main-soft"}`}
    >
      <p className="font-semibold">{stateWords(letter)}</p>
      {letter.reason && <p className="break-words">{letter.reason}</p>}
      <div className="mt-2 flex flex-wrap gap-2 empty:hidden">
        <LetterSteps letter={letter} onChanged={onChanged} />
      </div>
    </div>
  );
}
