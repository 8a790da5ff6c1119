import { Link, useSearchParams } from "react-router";
import { $api, type Schemas } from "../../api/client";
import { ProblemText } from "../../components/ProblemText";
import { Tabs } from "../../components/Tabs";
import { momentOf } from "../../components/time";
import { homeOf } from "../desk/words";
import { LetterSteps, stateWords } from "./StateLine";

type View = "way" | "drafts" | "sent";
const states = {
  way: ["waiting", "sending", "refused", "unsure"],
  drafts: ["draft"],
  sent: ["sent"],
} as const;
const empty = {
  way: "Nothing is on its way. Letters that wait, were refused or got stuck stand here with the reason.",
  drafts: "No drafts. A letter that you began and did not send stays here.",
  sent: "You have not sent a letter yet.",
};

export function OutboxPage() {
  const [params, setParams] = useSearchParams();
  const view = (params.get("view") ?? "way") as View;
  const letters = $api.useQuery(
    "get",
    "/api/letters",
    { params: { query: { state: [...states[view]] } } },
    { refetchInterval: view === "way" ? 1500 : false },
  );
  return (
    <div>
      <div className="flex flex-wrap items-center gap-4 px-4 pt-4 pb-3 sm:px-6">
        <h1 className="font-serif text-2xl font-semibold">Outbox</h1>
        <Tabs
          label="Letters"
          choices={[
            ["way", "On their way"],
            ["drafts", "Drafts"],
            ["sent", "Sent"],
          ]}
          value={view}
          onChange={(value) => setParams(value === "way" ? {} : { view: value }, { replace: true })}
        />
      </div>
      <ProblemText error={letters.error} />
      {letters.data?.length === 0 && <p className="px-6 py-10 text-ink-soft">{empty[view]}</p>}
      <ol className="border-t border-rule bg-sheet empty:hidden">
        {letters.data?.map((l) => (
          <Line key={l.id} letter={l} onChanged={() => letters.refetch()} />
        ))}
      </ol>
    </div>
  );
}

function Line({ letter: l, onChanged }: { letter: Schemas["LetterRow"]; onChanged: () => void }) {
  const bad = l.state === "refused" || l.state === "unsure";
  const to = l.state === "draft" ? `/letters/${l.id}` : `${homeOf(l)}?letter=${l.id}`;
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-rule px-4 py-2 sm:px-6">
      <Link to={to} className="min-w-0 flex-1 basis-64 hover:underline">
        <span className="font-serif text-[1.05rem] font-medium">{l.subject || "No subject yet"}</span>
        <span className="block truncate text-sm text-ink-soft">
          to {l.person || l.toEmail}
          {l.template ? ` · ${l.template}` : ""}
        </span>
      </Link>
      <div className={`basis-72 text-sm ${bad ? "text-stop" : "text-ink-soft"}`}>
        {l.state === "draft" ? `Last changed ${momentOf(l.updatedAt)}` : stateWords(l)}
        {l.state !== "sent" && l.reason && <span className="block break-words">{l.reason}</span>}
      </div>
      <div className="flex gap-2 empty:hidden">
        <LetterSteps letter={l} onChanged={onChanged} />
      </div>
    </li>
  );
}
