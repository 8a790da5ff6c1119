import { useState } from "react";
import { $api, type Schemas } from "../../api/client";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { plural } from "../../components/plural";
import { momentOf } from "../../components/time";
import { Stretches } from "./Stretches";

type Template = Schemas["TemplateOut"];
type Props = { template: Template; onBringBack: (old: Template) => void };

/** Every version of a template, what one changed against another, and the way back. */
export function Versions({ template, onBringBack }: Props) {
  const id = template.id;
  const list = $api.useQuery("get", "/api/templates/{id}/versions", { params: { path: { id } } }, { staleTime: 0 });
  const [to, setTo] = useState(template.version);
  const [against, setAgainst] = useState<number>(); // undefined: the one before
  const rows = list.data ?? [];
  const before = rows.find((v) => v.version < to)?.version ?? to;
  return (
    <section aria-label="Versions">
      <ProblemText error={list.error} />
      {list.isPending && <Loading />}
      <ol className="mb-6">
        {rows.map((v) => (
          <li key={v.version}>
            <button
              type="button"
              aria-current={v.version === to}
              onClick={() => {
                setTo(v.version);
                setAgainst(undefined);
              }}
              className={`grid w-full grid-cols-[1fr_auto] items-baseline gap-x-4 sm:grid-cols-[6rem_1fr_auto] border-b border-rule px-2 py-1.5 text-left ${v.version === to ? "bg-main-soft" : "hover:bg-main-soft"}`}
            >
              <span className="font-semibold">Version {v.version}</span>
              <span className="order-last col-span-2 min-w-0 text-sm text-ink-soft sm:order-none sm:col-span-1">
                {v.by}, {momentOf(v.storedAt)} · {v.state}
              </span>
              <span className="text-sm text-ink-soft">{v.sent === 0 ? "" : `${plural(v.sent, "letter")} sent`}</span>
            </button>
          </li>
        ))}
      </ol>
      {rows.length > 0 && (
        <Compared id={id} from={against ?? before} to={to} versions={rows.map((v) => v.version)} onFrom={setAgainst}>
          {template.mayEdit && to !== template.version && <BringBack id={id} version={to} onOld={onBringBack} />}
        </Compared>
      )}
    </section>
  );
}

type ComparedProps = {
  id: number;
  from: number;
  to: number;
  versions: number[];
  onFrom: (v: number) => void;
  children: React.ReactNode;
};

function Compared({ id, from, to, versions, onFrom, children }: ComparedProps) {
  const c = $api.useQuery("get", "/api/templates/{id}/compare", { params: { path: { id }, query: { from, to } } });
  return (
    <section aria-label="What changed">
      <div className="mb-3 flex flex-wrap items-center gap-x-4 gap-y-2">
        <label className="text-sm">
          <span className="text-ink-soft">Version {to} against </span>
          <select value={from} onChange={(e) => onFrom(Number(e.target.value))} className="bg-transparent">
            {versions.map((v) => (
              <option key={v} value={v}>
                version {v}
              </option>
            ))}
          </select>
        </label>
        {children}
      </div>
      <ProblemText error={c.error} />
      {c.data && (
        <>
          {from === to && <p className="mb-3 text-sm text-ink-soft">This is version {to} as it was stored.</p>}
          {from !== to && sameWords(c.data) && (
            <p className="mb-3 text-sm text-ink-soft">
              The words and settings are the same; only the formatting may differ.
            </p>
          )}
          <ul className="text-sm">
            {c.data.settings.map((s) => (
              <li key={s.setting}>
                <span className="text-ink-soft">{s.setting}:</span> <del className="words-out">{s.from || "none"}</del>{" "}
                <ins className="words-in">{s.to || "none"}</ins>
              </li>
            ))}
          </ul>
          <h3 className="mt-4 mb-3 border-b border-rule pb-2 font-serif text-lg font-semibold">
            <Stretches list={c.data.subject} />
          </h3>
          <div className="letter-text text-base!">
            <Stretches list={c.data.body} />
          </div>
        </>
      )}
    </section>
  );
}

function sameWords(c: Schemas["Comparison"]): boolean {
  return c.settings.length === 0 && [...c.subject, ...c.body].every((s) => s.kind === "same");
}

function BringBack({ id, version, onOld }: { id: number; version: number; onOld: (old: Template) => void }) {
  const old = $api.useQuery("get", "/api/templates/{id}/versions/{version}", { params: { path: { id, version } } });
  return (
    <Button disabled={!old.data} onClick={() => old.data && onOld(old.data)}>
      Bring version {version} back
    </Button>
  );
}
