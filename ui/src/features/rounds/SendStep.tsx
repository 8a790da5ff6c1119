import { Download, Pause, Play, Send } from "lucide-react";
import { useRef, useState } from "react";
import { api } from "../../api/client";
import { Button } from "../../components/Button";
import { figures, plural } from "../../components/plural";
import { inWords, momentOf } from "../../components/time";
import { MemberList } from "./MemberList";
import { afterWords } from "./TemplateStep";
import { type Shown, useMembers } from "./useMembers";
import type { Acting } from "./useRound";
import { countWords, groups, outcomes, type Round } from "./words";

type Props = { round: Round; shown: Shown; act: Acting };

/** The last step: when the letters go, how far they are, and what came of each. */
export function SendStep(props: Props) {
  const { round } = props;
  return (
    <div className="mx-auto w-full max-w-5xl px-4 py-6 sm:px-6">
      {round.state === "open" && <Sending {...props} />}
      {(round.state === "sending" || round.state === "paused") && <Progress {...props} />}
      {(round.beganAt !== undefined || round.endedAt !== undefined) && <Results {...props} />}
    </div>
  );
}

const spans: [number, string][] = [
  [0, "All at once"],
  [1, "Spread over an hour"],
  [4, "Spread over four hours"],
  [8, "Spread over eight hours"],
  [24, "Spread over a day"],
  [72, "Spread over three days"],
  [168, "Spread over a week"],
];

/** What goes, and when; the button says how many letters. */
function Sending({ round, shown, act }: Props) {
  const { groups: g } = round;
  const [all, setAll] = useState(round.when.all ?? false);
  const [how, setHow] = useState(round.when.local ? "at" : round.when.morning ? "morning" : "now");
  const [local, setLocal] = useState(round.when.local ?? "");
  const [over, setOver] = useState(round.when.overHours ?? 0);
  const [busy, setBusy] = useState(false);
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const count = all ? g.ready : g.proofread;
  const send = async () => {
    setBusy(true);
    await act(
      api.POST("/api/rounds/{id}/send", {
        params: { path: { id: round.id }, query: { version: round.version } },
        body: {
          count,
          when: {
            all,
            ...(how === "at" && { local, zone }),
            ...(how === "morning" ? { morning: true } : { overHours: over }),
          },
        },
      }),
      `${plural(count, "letter")} on the way.`,
    );
    setBusy(false);
  };
  const left = g.gap + g.skipped + g.aside + (all ? 0 : g.ready - g.proofread);
  const open = all ? 0 : g.ready - g.proofread;
  const leftWords = [open > 0 && `${figures.format(open)} not marked good`, countWords({ ...g, ready: 0 })]
    .filter(Boolean)
    .join(", ");
  const choice = (value: string, name: string) => (
    <label className="flex items-center gap-2 py-0.5">
      <input
        type="radio"
        name="round-when"
        className="accent-main"
        checked={how === value}
        onChange={() => setHow(value)}
      />
      {name}
    </label>
  );
  return (
    <section aria-label="Send" className="mx-auto mb-8 max-w-3xl">
      <fieldset className="mb-5">
        <legend className="mb-1 font-serif text-lg font-semibold">Which letters</legend>
        <label className="flex items-center gap-2 py-0.5">
          <input
            type="radio"
            name="round-which"
            className="accent-main"
            checked={!all}
            onChange={() => setAll(false)}
          />
          Only those that I marked good: {figures.format(g.proofread)}
        </label>
        <label className="flex items-center gap-2 py-0.5">
          <input type="radio" name="round-which" className="accent-main" checked={all} onChange={() => setAll(true)} />
          All that are ready: {figures.format(g.ready)}
        </label>
        {round.hadToday > 0 && (
          <p className="mt-1 text-sm text-advice">
            {plural(round.hadToday, "of them has", "of them have")} a letter from you or a colleague today already.
          </p>
        )}
        {left > 0 && (
          <p className="mt-1 text-sm text-ink-soft">
            {plural(left, "person gets", "people get")} no letter now ({leftWords}). They stay in the round.
          </p>
        )}
      </fieldset>
      <fieldset className="mb-5">
        <legend className="mb-1 font-serif text-lg font-semibold">When</legend>
        {choice("now", "Now")}
        {choice("at", "At a time")}
        {how === "at" && (
          <label className="mb-1 ml-6 block">
            <span className="sr-only">The time</span>
            <input
              type="datetime-local"
              value={local}
              onChange={(e) => setLocal(e.target.value)}
              className="border-b border-rule-strong bg-transparent"
            />
            <span className="ml-3 text-sm text-ink-soft">
              {inWords(local)} {zone}
            </span>
          </label>
        )}
        {choice("morning", "In each recipient’s next working morning")}
        {how !== "morning" && (
          <label className="mt-2 block">
            <span className="sr-only">Spread</span>
            <select
              value={over}
              onChange={(e) => setOver(Number(e.target.value))}
              className="border-b border-rule-strong bg-ground py-0.5"
            >
              {spans.map(([hours, name]) => (
                <option key={hours} value={hours}>
                  {name}
                </option>
              ))}
              {!spans.some(([h]) => h === over) && <option value={over}>Spread over {plural(over, "hour")}</option>}
            </select>
          </label>
        )}
        {round.perDay > 0 && (
          <p className="mt-2 text-sm text-ink-soft">
            Your account sends {plural(round.perDay, "letter")} a day at most
            {count > round.perDay && `: these take ${plural(Math.ceil(count / round.perDay), "day")}`}.
          </p>
        )}
      </fieldset>
      {afterWords(round.after) && <p className="mb-4">Afterwards: {afterWords(round.after)}.</p>}
      <div className="flex flex-wrap items-center gap-3">
        <Button
          look="main"
          disabled={
            count === 0 ||
            busy ||
            !round.template ||
            (how === "at" && !local) ||
            (round.templateNews || round.partNews) !== ""
          }
          onClick={() => void send()}
        >
          <Send size={15} aria-hidden />
          {count === 0 ? "No letter is ready to go" : `Send ${plural(count, "letter")}`}
        </Button>
        <Button onClick={() => shown.set({ step: "check" })}>Back to the letters</Button>
        {round.beganAt === undefined ? null : (
          <Button
            onClick={() =>
              void act(api.POST("/api/rounds/{id}/stop", { params: { path: { id: round.id } } }), "The round is over.")
            }
          >
            End the round here
          </Button>
        )}
      </div>
      {count === 0 && g.ready > 0 && (
        <p className="mt-2 text-sm text-ink-soft">Mark letters good in Check, or choose all that are ready.</p>
      )}
    </section>
  );
}

/** How far the letters are; it can be left and found again. */
function Progress({ round, act }: Props) {
  const { groups: g } = round;
  const path = { params: { path: { id: round.id } } };
  const gone = g.sent + g.refused + g.unsure;
  const all = gone + g.waiting + g.going;
  return (
    <section aria-label="Progress" className="mx-auto mb-8 max-w-3xl">
      <p role="status" className="font-serif text-xl">
        {round.state === "paused" ? "Paused: " : ""}
        {figures.format(g.sent)} of {plural(all, "letter")} sent
        {g.refused > 0 && `, ${figures.format(g.refused)} refused`}
        {g.unsure > 0 && `, ${figures.format(g.unsure)} unsure`}
      </p>
      <div
        role="progressbar"
        aria-label="Letters dealt with"
        aria-valuemin={0}
        aria-valuemax={all}
        aria-valuenow={gone}
        className="mt-2 h-2 border border-rule-strong bg-sheet"
      >
        <div className="h-full bg-main" style={{ width: `${all ? (100 * gone) / all : 0}%` }} />
      </div>
      <p className="mt-2 text-sm text-ink-soft">
        {round.state === "paused"
          ? `${round.reason}. Nothing more goes until you go on.`
          : g.waiting + g.going > 0
            ? `${countWords({ ...g, ready: 0, gap: 0, skipped: 0, aside: 0 })}${round.nextAt && new Date(round.nextAt) > new Date() ? ` · the next goes ${momentOf(round.nextAt)}` : ""}. You can leave this page.`
            : "Almost done."}
      </p>
      <div className="mt-4 flex flex-wrap gap-2">
        {round.state === "sending" ? (
          <Button onClick={() => void act(api.POST("/api/rounds/{id}/pause", path), "Paused.")}>
            <Pause size={15} aria-hidden /> Pause
          </Button>
        ) : (
          <Button
            look="main"
            disabled={(round.templateNews || round.partNews) !== ""}
            onClick={() => void act(api.POST("/api/rounds/{id}/go-on", path), "It goes on.")}
          >
            <Play size={15} aria-hidden /> Go on
          </Button>
        )}
        <Button
          onClick={() => void act(api.POST("/api/rounds/{id}/reopen", path), "What has not gone is yours again.")}
        >
          Take back what has not gone
        </Button>
        <Button onClick={() => void act(api.POST("/api/rounds/{id}/stop", path), "Stopped.")}>Stop the round</Button>
      </div>
    </section>
  );
}

/** What happened to each person. */
function Results({ round, shown }: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useMembers(round.id, shown, scroller);
  const { groups: g } = round;
  const query = new URLSearchParams(shown.group ? { group: shown.group } : {});
  const cell = (key: string, name: string, n: number, of: number) => (
    <button
      key={key}
      type="button"
      aria-pressed={shown.group === key}
      onClick={() => shown.set({ group: shown.group === key ? "" : key, reason: "", missing: "" })}
      className={`min-w-24 border-t-3 px-3 py-2 text-left ${shown.group === key ? "border-main bg-main-soft" : "border-rule-strong bg-sheet hover:bg-ground"}`}
    >
      <span className="block font-serif text-2xl font-semibold tabular-nums">{figures.format(n)}</span>
      <span className="block text-sm text-ink-soft">
        {name}
        {of > 0 && ` · ${Math.round((100 * n) / of)}%`}
      </span>
    </button>
  );
  return (
    <section aria-label="Results">
      <div className="mb-3 flex flex-wrap items-baseline gap-x-4">
        <h2 className="font-serif text-lg font-semibold">What happened to each</h2>
        <a
          className="ml-auto inline-flex items-center gap-1.5 text-main hover:underline"
          href={`/api/rounds/${round.id}/summary.csv?${query}`}
          download
        >
          <Download size={15} aria-hidden /> Save {shown.group ? "these" : "the summary"} as CSV
        </a>
      </div>
      <div className="mb-3 flex flex-wrap gap-2">
        {groups.filter(([key]) => g[key] > 0).map(([key, name]) => cell(key, name, g[key], 0))}
        {outcomes
          .filter(([key]) => (g.outcomes[key] ?? 0) > 0)
          .map(([key, name]) => cell(key, name, g.outcomes[key] ?? 0, g.sent))}
      </div>
      {g.told > 0 && round.state !== "sending" && (
        <p className="mb-3 border-l-3 border-advice py-1 pl-3">
          {plural(g.told, "letter needs", "letters need")} a look: something came in between.{" "}
          <button type="button" className="text-main underline" onClick={() => shown.set({ group: "told" })}>
            Show them
          </button>
        </p>
      )}
      <div className="flex h-[26rem] border border-rule">
        <MemberList
          round={round}
          rows={rows}
          scroller={scroller}
          shown={shown}
          person={0}
          wide
          onPerson={(id) => shown.set({ step: "check", person: String(id) })}
        />
      </div>
    </section>
  );
}
