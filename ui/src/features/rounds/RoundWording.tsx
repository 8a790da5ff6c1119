import { useMemo, useRef, useState } from "react";
import { $api, api, type Schemas } from "../../api/client";
import { Button } from "../../components/Button";
import { LeaveGuard } from "../../components/LeaveGuard";
import { Loading } from "../../components/Loading";
import { Margin } from "../../components/Margin";
import { ProblemText } from "../../components/ProblemText";
import { typed } from "../library/wording";
import { FieldList } from "../templates/FieldList";
import { TemplateWords } from "../templates/TemplateWords";
import { toMargin } from "../templates/templateMargin";
import { usePageParts } from "../templates/usePageParts";
import { useTemplate } from "../templates/useTemplate";
import { useWriters } from "../templates/useWriters";
import type { Shown } from "./useMembers";
import type { Acting } from "./useRound";
import type { Round } from "./words";

type Props = { round: Round; shown: Shown; act: Acting };

/** The wording for one round; the template stays as it is. */
export function RoundWording(props: Props) {
  const { round } = props;
  const wording = $api.useQuery(
    "get",
    "/api/rounds/{id}/wording",
    { params: { path: { id: round.id } } },
    { staleTime: 0, gcTime: 0, refetchOnWindowFocus: false },
  );
  if (wording.error)
    return (
      <div className="p-6">
        <ProblemText error={wording.error} />
      </div>
    );
  if (!wording.data) return <Loading />;
  return <Words {...props} first={wording.data} />;
}

const nobody: Schemas["FieldInfo"][] = [];

function Words({ round, shown, act, first }: Props & { first: Schemas["TemplateOut"] }) {
  const [mine] = useState(() => ({ ...first, mayEdit: true }));
  const draft = useTemplate(mine);
  const { text, notes, fits, changed } = draft;
  const fields = $api.useQuery("get", "/api/fields").data ?? nobody;
  const sheet = useRef<HTMLDivElement>(null);
  const latest = useRef(text);
  latest.current = text;
  const done = useRef(false);
  const writers = useWriters(!!text.doc);
  const parts = usePageParts(draft, latest);
  const { views, editor, subject, fix, chips, selected } = writers;
  const margin = useMemo(
    () =>
      toMargin({
        notes,
        views,
        editor,
        subject,
        fix,
        fits,
        reach: undefined,
        chips,
        selected: text.doc ? selected : [],
        fields,
      }),
    [notes, views, editor, subject, fix, fits, chips, selected, fields, text.doc],
  );
  const partNotes = text.kind === "html" ? parts.note(fields) : [];
  const save = async () => {
    done.current = true;
    const ok = await act(
      api.PUT("/api/rounds/{id}/wording", {
        params: { path: { id: round.id }, query: { version: round.version } },
        body: typed(latest.current, round.templateId ?? 0),
      }),
      "Saved for this round. The template is as it was.",
    );
    done.current = ok;
    if (ok) shown.set({ step: "check" });
  };
  return (
    <div className="flex min-h-full flex-1 flex-col">
      <LeaveGuard changed={changed} what="this wording" past={() => done.current} />
      <div className="mx-auto grid w-full max-w-6xl flex-1 grid-cols-1 gap-x-9 gap-y-4 px-3 py-5 sm:px-6 lg:grid-cols-[minmax(0,1fr)_16.5rem]">
        <div className="min-w-0">
          <p className="mb-3 text-ink-soft">
            For this round only. The template “{round.template}” stays as it is. Letters that you changed by hand keep
            their words.
          </p>
          <div
            ref={sheet}
            className={`min-h-[24rem] border border-rule bg-sheet py-6 sm:py-9 ${text.kind !== "plain" ? "paper" : ""} ${text.kind === "html" ? "px-3 sm:px-5" : "px-5 sm:px-12"}`}
          >
            <TemplateWords draft={draft} fields={fields} writers={writers} parts={parts} />
          </div>
        </div>
        <Margin label="Margin notes" notes={[...margin, ...partNotes]} sheet={sheet} tick={[text, parts.part]} />
      </div>
      <section
        aria-label="Wording for this round"
        className="sticky bottom-0 z-20 flex flex-wrap items-center justify-end gap-3 border-t border-rule-strong bg-ground px-4 py-2.5 sm:px-6"
      >
        <Button onClick={() => shown.set({ step: "template" })}>Leave it as it was</Button>
        <Button
          look="main"
          disabled={!changed || parts.typing || round.state === "sending"}
          onClick={() => void save()}
        >
          Use it for this round
        </Button>
      </section>
      {writers.picking && <FieldList onPick={(f) => writers.pick(f.path)} onClose={writers.leaveFields} />}
    </div>
  );
}
