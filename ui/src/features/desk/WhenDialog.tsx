import { useState } from "react";
import { api, noAnswer, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { Modal } from "../../components/Modal";
import { inDays, inWords } from "../../components/time";
import type { Letter } from "./useDraft";
import { morningOf, placeOf, type When } from "./words";

type Props = {
  letter: Letter;
  when: When;
  onKeep: (when: When) => void;
  onTracked: (on: boolean) => Promise<string>;
  onHold: () => void;
  onClose: () => void;
};

/** When the letter goes. */
export function WhenDialog({ letter, when, onKeep, onTracked, onHold, onClose }: Props) {
  const mine = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const { times } = letter;
  const [how, setHow] = useState(when.how);
  const [local, setLocal] = useState(when.how === "at" ? when.local : "");
  const [zone, setZone] = useState(when.how === "at" ? when.zone : "");
  const [remind, setRemind] = useState(when.remind ?? "");
  const [any, setAny] = useState(when.remindAny ?? false);
  const [hold, setHold] = useState(String(times.hold));
  const [problem, setProblem] = useState("");
  const keep = async () => {
    if (how === "at" && !local) return setProblem("The time is missing; choose a day and a time.");
    if (Number(hold) !== times.hold) {
      const { error } = await api.PUT("/api/me/hold", { body: { seconds: Math.round(Number(hold)) } }).catch(noAnswer);
      if (error) return setProblem(wordsOf(error));
      onHold();
    }
    onKeep({ ...(how === "at" ? { how, local, zone } : { how }), ...(remind && { remind, remindAny: any }) });
    onClose();
  };
  const choice = (value: When["how"], name: string) => (
    <label className="flex items-center gap-2 py-1 font-medium">
      <input type="radio" name="when" checked={how === value} onChange={() => setHow(value)} />
      {name}
    </label>
  );
  return (
    <Modal
      title="When it goes"
      onClose={onClose}
      foot={
        <Button look="main" className="ml-auto" onClick={keep}>
          Save the time
        </Button>
      }
    >
      {choice("now", "Now")}
      <label className="mb-4 ml-6 flex items-center gap-2 text-sm text-ink-soft">
        I can take back a letter for
        <input
          type="number"
          min={0}
          max={120}
          value={hold}
          onChange={(e) => setHold(e.target.value)}
          className="w-16 border-b border-rule-strong bg-transparent text-right text-ink outline-none focus:border-main"
        />
        seconds
      </label>
      {choice("morning", "Next working morning")}
      <p className="mb-4 ml-6 text-sm text-ink-soft">
        {morningOf(times)}
        {times.over && `; ${times.over} is a holiday there`}
        {times.zoneFrom === "country" && ". The record has no time zone, so this uses the country’s."}
        {times.zoneFrom === "unknown" && ". The record has no time zone or country, so this uses UTC."}
      </p>
      {choice("at", "At a time")}
      <div className="ml-6 flex flex-wrap items-center gap-3">
        <input
          type="datetime-local"
          aria-label="Date and time"
          value={local}
          onFocus={() => setHow("at")}
          onChange={(e) => setLocal(e.target.value)}
          className="border-b border-rule-strong bg-transparent py-1 outline-none focus:border-main"
        />
        <select
          aria-label="Time zone"
          value={zone}
          onChange={(e) => setZone(e.target.value)}
          className="border-b border-rule-strong bg-sheet py-1 outline-none focus:border-main"
        >
          <option value="">
            on the clock of {letter.person} ({placeOf(times.zone)})
          </option>
          <option value={mine}>on my clock ({placeOf(mine)})</option>
        </select>
        <span className="text-sm text-ink-soft">{inWords(local)}</span>
      </div>
      <div className="mt-6 border-t border-rule pt-4">
        <label className="flex flex-wrap items-center gap-3">
          <span className="font-medium">Remind me on</span>
          <input
            type="date"
            value={remind}
            onChange={(e) => setRemind(e.target.value)}
            className="border-b border-rule-strong bg-transparent py-1 outline-none focus:border-main"
          />
          <span className="text-sm text-ink-soft">{inWords(remind)}</span>
        </label>
        <fieldset className="mt-1 flex flex-wrap gap-x-5">
          <legend className="sr-only">When to remind</legend>
          {(
            [
              [false, "only if there’s no reply"],
              [true, "whatever comes"],
            ] as const
          ).map(([value, name]) => (
            <label key={name} className="flex items-baseline gap-2">
              <input type="radio" name="remind" checked={any === value} onChange={() => setAny(value)} />
              {name}
            </label>
          ))}
        </fieldset>
        <p className="mt-1 flex gap-4 text-sm">
          {[3, 7, 14].map((days) => (
            <button
              key={days}
              type="button"
              className="text-main hover:underline"
              onClick={() => setRemind(inDays(days))}
            >
              in {days} days
            </button>
          ))}
          {remind && (
            <button type="button" className="text-main hover:underline" onClick={() => setRemind("")}>
              never
            </button>
          )}
        </p>
      </div>
      {(!letter.tracking.fixed || letter.tracking.reason) && (
        <label className="mt-5 flex items-baseline gap-2 border-t border-rule pt-4">
          <input
            type="checkbox"
            className="accent-main"
            checked={letter.tracking.on}
            disabled={letter.tracking.fixed}
            onChange={async (e) => setProblem(await onTracked(e.target.checked))}
          />
          <span>
            Track opens and clicks in this letter
            <span className="block text-sm text-ink-soft">
              {letter.tracking.reason ??
                "Uses an invisible picture and redirected links. When off, opens and clicks aren’t known."}
            </span>
          </span>
        </label>
      )}
      {problem && (
        <p role="alert" className="mt-3 text-stop">
          {problem}
        </p>
      )}
    </Modal>
  );
}
