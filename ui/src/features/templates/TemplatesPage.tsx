import { Plus } from "lucide-react";
import { useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { $api, type Schemas } from "../../api/client";
import { useKeys } from "../../app/keys";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { SearchLine } from "../../components/SearchLine";
import { Tabs } from "../../components/Tabs";
import { dayOf } from "../../components/time";
import { fitsWords } from "./words";

type Template = Schemas["TemplateOut"];
type State = "" | Template["state"];

export function TemplatesPage() {
  const [params, setParams] = useSearchParams();
  const go = useNavigate();
  const search = useRef<HTMLInputElement>(null);
  const [at, setAt] = useState(0);
  const q = params.get("q") ?? "";
  const state = (params.get("state") ?? "") as State;
  const templates = $api.useQuery("get", "/api/templates");
  const words = q.toLowerCase().split(/\s+/).filter(Boolean);
  const list = (templates.data ?? []).filter(
    (t) =>
      (!state || t.state === state) &&
      words.every((w) => `${t.name} ${t.whenToUse} ${t.subject} ${t.body}`.toLowerCase().includes(w)),
  );
  const set = (key: string, value: string) => {
    const next = new URLSearchParams(params);
    if (value) next.set(key, value);
    else next.delete(key);
    setParams(next, { replace: true });
    setAt(0);
  };
  const move = (by: number) => {
    const next = Math.max(0, Math.min(list.length - 1, at + by));
    setAt(next);
    document.getElementById(`t${list[next]?.id}`)?.scrollIntoView({ block: "nearest" });
  };
  const open = () => list[at] && go(`/templates/${list[at].id}`);
  useKeys({
    "/": () => search.current?.focus(),
    j: () => move(1),
    k: () => move(-1),
    ArrowDown: () => move(1),
    ArrowUp: () => move(-1),
    Enter: open,
  });
  return (
    <div>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2 px-4 pt-4 pb-3 sm:px-6">
        <h1 className="font-serif text-2xl font-semibold">Templates</h1>
        <SearchLine
          ref={search}
          label="Search templates"
          hint="Name, use, words  ( / )"
          value={q}
          onChange={(value) => set("q", value)}
          onOpen={open}
        />
        <Tabs
          label="State"
          choices={[
            ["", "All"],
            ["ready", "Ready"],
            ["draft", "Drafts"],
            ["withdrawn", "Withdrawn"],
          ]}
          value={state}
          onChange={(s) => set("state", s)}
        />
        <Link to="/templates/new" className="ml-auto inline-flex items-center gap-1.5 text-main hover:underline">
          <Plus size={15} aria-hidden /> New template
        </Link>
      </div>
      <ProblemText error={templates.error} />
      {templates.isPending && <Loading />}
      {templates.data && list.length === 0 && (
        <p className="px-6 py-10 text-ink-soft">
          {templates.data.length === 0
            ? "A template is a letter that is written once and filled in for everybody it goes to. Write the first one."
            : "No template fits what you look for."}
        </p>
      )}
      <ul aria-label="Templates" className="border-t border-rule bg-sheet empty:hidden">
        {list.map((t, i) => (
          <Line key={t.id} template={t} active={i === at} onFocus={() => setAt(i)} />
        ))}
      </ul>
    </div>
  );
}

function Line({ template: t, active, onFocus }: { template: Template; active: boolean; onFocus: () => void }) {
  const stops = t.notes.filter((n) => n.severity === "stops").length;
  return (
    <li
      id={`t${t.id}`}
      className={`grid grid-cols-[minmax(0,1fr)_auto] items-baseline gap-x-6 border-b border-rule px-4 py-2 sm:px-6 md:grid-cols-[minmax(0,1fr)_14rem_9rem_6rem] ${active ? "bg-main-soft" : "hover:bg-ground"}`}
    >
      <div className="min-w-0">
        <Link
          to={`/templates/${t.id}`}
          onFocus={onFocus}
          className="font-serif text-[1.1rem] font-medium hover:underline"
        >
          {t.name}
        </Link>
        <p className="truncate text-sm text-ink-soft">{t.whenToUse}</p>
      </div>
      <p className="hidden text-sm text-ink-soft md:block">{fitsWords(t.fits)}</p>
      <p className="hidden text-sm text-ink-soft md:block">
        {t.used === 0 ? "never sent" : `sent ${t.used} times`}
        {t.lastUsed && <span className="block">last {dayOf(t.lastUsed)}</span>}
      </p>
      <p className={`text-right text-sm ${t.state === "ready" ? "text-ok" : "text-advice"}`}>
        {t.state}
        {stops > 0 && <span className="block text-stop">{stops === 1 ? "1 red note" : `${stops} red notes`}</span>}
      </p>
    </li>
  );
}
