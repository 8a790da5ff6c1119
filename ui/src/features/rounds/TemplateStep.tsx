import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { $api, api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { figures, plural } from "../../components/plural";
import { SearchLine } from "../../components/SearchLine";
import { AskDialog } from "../desk/AskDialog";
import { EnvelopeDialog } from "./EnvelopeDialog";
import type { Shown } from "./useMembers";
import type { Acting } from "./useRound";
import type { Round } from "./words";

type Props = { round: Round; shown: Shown; act: Acting };

/** Which template a round goes out in: those that fit its people, each with how many it fits completely. */
export function TemplateStep({ round, shown, act }: Props) {
  const [around, setAround] = useState(false);
  const [choosing, setChoosing] = useState(!round.template);
  const [asking, setAsking] = useState(false);
  const [q, setQ] = useState("");
  const queries = useQueryClient();
  const fixed = round.state !== "open" && round.state !== "paused";
  const offer = $api.useQuery(
    "get",
    "/api/rounds/{id}/templates",
    { params: { path: { id: round.id } } },
    { enabled: choosing, staleTime: 0, refetchInterval: ({ state }) => (state.data?.running ? 50 : false) },
  );
  const choose = async (t: Schemas["Fit"]) => {
    const ok = await act(
      api.PUT("/api/rounds/{id}/template", {
        params: { path: { id: round.id }, query: { version: round.version } },
        body: { templateId: t.id },
      }),
    );
    if (ok) shown.set({ step: "check" });
  };
  const refresh = () => queries.invalidateQueries({ queryKey: ["get", "/api/rounds/{id}"] });
  const noAsk = () =>
    act(api.DELETE("/api/rounds/{id}/ask", { params: { path: { id: round.id }, query: { version: round.version } } }));
  const drop = () =>
    act(
      api.DELETE("/api/rounds/{id}/wording", { params: { path: { id: round.id }, query: { version: round.version } } }),
      "The template’s wording again.",
    );
  return (
    <div className="mx-auto w-full max-w-3xl px-4 py-6 sm:px-6">
      {round.template && (
        <section aria-label="The template" className="mb-6">
          <p className="font-serif text-xl">“{round.template}”</p>
          <p className="mt-1 text-ink-soft">
            {round.ownWording
              ? "With a wording for this round only; the template is as it was."
              : "In its wording as it was when you chose it. You can change the words for this round only."}
          </p>
          {!fixed && (
            <div className="mt-3 flex flex-wrap gap-2">
              <Button onClick={() => shown.set({ step: "wording" })}>Change the wording for this round</Button>
              {round.ownWording && <Button onClick={() => void drop()}>Use the template’s wording</Button>}
              <Button onClick={() => setAround(true)}>Sender, attachments, afterwards</Button>
              <Button onClick={() => setAsking(true)}>{round.ask ? "Ask something else" : "Ask a question"}</Button>
              {!choosing && <Button onClick={() => setChoosing(true)}>Choose another template</Button>}
              <Button look="main" onClick={() => shown.set({ step: "check" })}>
                Check the letters
              </Button>
            </div>
          )}
          <Around round={round} />
          {round.ask && (
            <p className="mt-2 text-sm">
              <span className="text-ink-soft">Every letter asks:</span>{" "}
              {round.ask.title || round.ask.questions.map((x) => x.text).join(" · ")}{" "}
              {!fixed && (
                <button type="button" className="text-main underline" onClick={() => void noAsk()}>
                  Ask nothing
                </button>
              )}
            </p>
          )}
        </section>
      )}
      {choosing && !fixed && (
        <section aria-label="Templates that fit">
          <h2 className="mb-1 font-serif text-lg font-semibold">Templates that fit these people</h2>
          <p className="mb-3 text-sm text-ink-soft" role="status">
            {offer.data?.running
              ? `Looking at the people: ${figures.format(offer.data.looked)} of ${figures.format(offer.data.of)} …`
              : offer.data && offer.data.templates.length > 0
                ? "How many letters would be complete at once."
                : ""}
          </p>
          {(offer.data?.templates.length ?? 0) > 8 && (
            <div className="mb-3 flex">
              <SearchLine label="Find a template" hint="Name or when to use  ( / )" value={q} onChange={setQ} />
            </div>
          )}
          <ProblemText error={offer.error} />
          {offer.isPending && <Loading />}
          {offer.data?.why && (
            <p className="border border-rule bg-sheet px-5 py-6">
              {offer.data.why}{" "}
              <Link to="/templates" className="text-main underline">
                Open Templates
              </Link>
            </p>
          )}
          <ul>
            {offer.data?.templates
              .filter((t) => said(t, q))
              .map((t) => (
                <li key={t.id}>
                  <button
                    type="button"
                    onClick={() => void choose(t)}
                    className="grid w-full gap-x-6 border-b border-rule bg-sheet px-4 py-2.5 text-left hover:bg-main-soft sm:grid-cols-[minmax(0,1fr)_15rem]"
                  >
                    <span className="min-w-0">
                      <span className="block truncate font-serif text-lg font-semibold">{t.name}</span>
                      <span className="block truncate text-sm text-ink-soft">{t.whenToUse}</span>
                    </span>
                    <Fits fit={t} />
                  </button>
                </li>
              ))}
          </ul>
          {(offer.data?.others ?? 0) > 0 && (
            <p className="mt-2 text-sm text-ink-soft">
              {plural(offer.data?.others ?? 0, "other template fits", "other templates fit")} nobody of this round.
            </p>
          )}
        </section>
      )}
      {asking && (
        <AskDialog
          letter={{ person: "each recipient", deal: "" }}
          onAsk={async (sheet) => {
            const { error } = await api
              .PUT("/api/rounds/{id}/ask", {
                params: { path: { id: round.id }, query: { version: round.version } },
                body: sheet,
              })
              .catch(noAnswer);
            if (error) return wordsOf(error);
            await refresh();
            return "";
          }}
          onClose={() => setAsking(false)}
        />
      )}
      {around && <EnvelopeDialog round={round} act={act} onClose={() => setAround(false)} />}
    </div>
  );
}

const said = (t: Schemas["Fit"], q: string) =>
  `${t.name} ${t.whenToUse}`.toLowerCase().includes(q.trim().toLowerCase());

/** How many of the people a template fits: a ruled bar and the figures. */
function Fits({ fit: t }: { fit: Schemas["Fit"] }) {
  const all = t.complete + t.gaps + t.unfit;
  const share = (n: number) => `${all ? (100 * n) / all : 0}%`;
  return (
    <span className="self-center text-sm">
      <span aria-hidden className="flex h-1.5 w-full border border-rule-strong">
        <span className="bg-main" style={{ width: share(t.complete) }} />
        <span className="bg-advice/60" style={{ width: share(t.gaps) }} />
      </span>
      <span className="block">
        <b>{figures.format(t.complete)}</b> complete
        {t.gaps > 0 && `, ${figures.format(t.gaps)} with gaps`}
        {t.unfit > 0 && `, ${figures.format(t.unfit)} don’t fit`}
      </span>
      {t.blanks > 0 && <span className="block text-ink-soft">asks for {plural(t.blanks, "blank")}</span>}
    </span>
  );
}

function Around({ round }: { round: Round }) {
  const lines: [string, string][] = [
    ["From", round.from],
    ["Replies to", round.replyTo],
    ["Attached", round.attachments.map((a) => a.name).join(", ")],
    ["Afterwards", afterWords(round.after)],
  ];
  const said = lines.filter(([, v]) => v);
  if (said.length === 0) return null;
  return (
    <dl className="mt-4 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1 text-sm">
      {said.map(([name, value]) => (
        <div key={name} className="contents">
          <dt className="text-ink-soft">{name}</dt>
          <dd>{value}</dd>
        </div>
      ))}
    </dl>
  );
}

/** What happens when a letter went out, in words. */
export function afterWords(a: Schemas["RoundAfter"]): string {
  const parts = [
    a.path && (a.path === "lead.status" ? `status to “${a.value}”` : `${a.path} to “${a.value}”`),
    a.task && `task “${a.task}” after ${plural(a.days ?? 0, "day")}`,
  ];
  return parts.filter(Boolean).join("; ");
}
