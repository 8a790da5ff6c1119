import { keepPreviousData } from "@tanstack/react-query";
import { useRef } from "react";
import { Link, useSearchParams } from "react-router";
import { $api, type Schemas } from "../../api/client";
import { useKeys } from "../../app/keys";
import { ProblemText } from "../../components/ProblemText";
import { SearchLine } from "../../components/SearchLine";
import { Tabs } from "../../components/Tabs";
import { momentOf } from "../../components/time";
import { homeOf } from "../desk/words";
import { backTone, backWords } from "./Back";
import { useUnfit } from "./OnTheWay";
import { LetterSteps, stateWords } from "./StateLine";
import { Story } from "./Story";

type View = "way" | "drafts" | "sent";
const states = {
  way: ["waiting", "sending", "refused", "unsure", "cancelled"],
  drafts: ["draft"],
} as const;
const empty = {
  way: "Nothing is waiting. Letters that are waiting, refused or stuck appear here with the reason.",
  drafts: "No drafts. Letters you start and don’t send appear here.",
};

export function OutboxPage() {
  const [params, setParams] = useSearchParams();
  const view = (params.get("view") ?? "way") as View;
  const search = useRef<HTMLInputElement>(null);
  useKeys({ "/": () => search.current?.focus() });
  return (
    <div>
      <div className="flex flex-wrap items-center gap-4 px-4 pt-4 pb-3 sm:px-6">
        <h1 className="font-serif text-2xl font-semibold">Outbox</h1>
        <Tabs
          label="Letters"
          choices={[
            ["way", "Outgoing"],
            ["drafts", "Drafts"],
            ["sent", "Sent"],
          ]}
          value={view}
          onChange={(value) => setParams(value === "way" ? {} : { view: value }, { replace: true })}
        />
        {view === "sent" && (
          <SearchLine
            ref={search}
            label="Search sent letters"
            hint="Subject, recipient, template  ( / )"
            value={params.get("q") ?? ""}
            onChange={(words) => setParams(words ? { view: "sent", q: words } : { view: "sent" }, { replace: true })}
            onOpen={() => document.querySelector<HTMLAnchorElement>("[aria-label='Sent letters'] a")?.focus()}
          />
        )}
      </div>
      {view === "sent" ? <Sent /> : <Waiting view={view} />}
    </div>
  );
}

function Waiting({ view }: { view: "way" | "drafts" }) {
  const letters = $api.useQuery(
    "get",
    "/api/letters",
    { params: { query: { state: [...states[view]] } } },
    { refetchInterval: view === "way" ? 1500 : false },
  );
  const unfit = useUnfit(view === "way");
  return (
    <>
      <ProblemText error={letters.error} />
      {letters.data?.length === 0 && <p className="px-6 py-10 text-ink-soft">{empty[view]}</p>}
      <ol className="border-t border-rule bg-sheet empty:hidden">
        {letters.data?.map((l) => (
          <Line
            key={l.id}
            letter={l}
            unfit={l.state === "waiting" ? unfit.get(l.id) : undefined}
            onChanged={() => letters.refetch()}
          />
        ))}
      </ol>
    </>
  );
}

/** What I sent, and what came back of each letter. */
function Sent() {
  const [params] = useSearchParams();
  const q = params.get("q") ?? "";
  const letters = $api.useQuery(
    "get",
    "/api/sent",
    { params: { query: q ? { q } : {} } },
    { refetchInterval: 5000, placeholderData: keepPreviousData },
  );
  return (
    <>
      <ProblemText error={letters.error} />
      {letters.data?.length === 0 && (
        <p className="px-6 py-10 text-ink-soft">
          {q ? `No sent letter matches “${q}”.` : "You have not sent a letter yet."}
        </p>
      )}
      <ol aria-label="Sent letters" className="border-t border-rule bg-sheet empty:hidden">
        {letters.data?.map((l) => (
          <li
            key={l.id}
            className="flex flex-wrap items-baseline gap-x-4 gap-y-0.5 border-b border-rule px-4 py-1.5 sm:px-6"
          >
            <Subject letter={l} to={`${homeOf(l)}?letter=${l.id}`} />
            <span className={`basis-80 text-sm ${backTone(l.back)}`}>
              {backWords(l.back)}
              {l.back.machineOpens + l.back.machineClicks > 0 && !l.back.opened && (
                <span className="font-normal text-ink-soft"> · fetched by a machine</span>
              )}
            </span>
            <span className="text-sm text-ink-soft sm:w-40 sm:text-right">{l.sentAt && momentOf(l.sentAt)}</span>
          </li>
        ))}
      </ol>
    </>
  );
}

function Subject({ letter: l, to }: { letter: Schemas["LetterRow"]; to: string }) {
  return (
    <Link to={to} className="min-w-0 flex-1 basis-64 hover:underline">
      <span className="font-serif text-[1.05rem] font-medium">{l.subject || "No subject yet"}</span>
      <span className="block truncate text-sm text-ink-soft">
        to {l.person || l.toEmail}
        {l.template ? ` · ${l.template}` : ""}
      </span>
    </Link>
  );
}

function Line({
  letter: l,
  unfit,
  onChanged,
}: {
  letter: Schemas["LetterRow"];
  unfit: string | undefined;
  onChanged: () => void;
}) {
  const bad = l.state === "refused" || l.state === "unsure";
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-rule px-4 py-2 sm:px-6">
      <Subject letter={l} to={l.state === "draft" ? `/letters/${l.id}` : `${homeOf(l)}?letter=${l.id}`} />
      <div className={`basis-96 text-sm ${bad ? "text-stop" : "text-ink-soft"}`}>
        {l.state === "draft" ? `Last changed ${momentOf(l.updatedAt)}` : stateWords(l)}
        {l.reason && <span className="block break-words">{l.reason}</span>}
        {unfit && (
          <span className="block break-words text-stop">
            <strong className="font-semibold">Won’t go like this.</strong> {unfit}
          </span>
        )}
        {l.state !== "draft" && <Story id={l.id} />}
      </div>
      <div className="flex flex-wrap gap-2 empty:hidden">
        <LetterSteps letter={l} onChanged={onChanged} />
      </div>
    </li>
  );
}
