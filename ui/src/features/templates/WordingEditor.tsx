import { useMemo, useRef, useState } from "react";
import { $api, type Schemas } from "../../api/client";
import { useUnsaved } from "../../app/unsaved";
import { Button } from "../../components/Button";
import { Margin } from "../../components/Margin";
import { typed, type Wording } from "../library/wording";
import { FieldList } from "./FieldList";
import { TemplateWords } from "./TemplateWords";
import { toMargin } from "./templateMargin";
import { usePageParts } from "./usePageParts";
import { useTemplate } from "./useTemplate";
import { useWriters } from "./useWriters";

const nobody: Schemas["FieldInfo"][] = [];

type Props = {
  /** What is edited, as it is stored. */
  first: Schemas["TemplateOut"];
  /** What it is for, above the words. */
  lead: string;
  name: string;
  act: string;
  leave: string;
  disabled?: boolean;
  /** The template whose bounds hold, 0 none. */
  templateId: number;
  /** Saves the words; tells whether they are saved. */
  onSave: (words: ReturnType<typeof typed>) => Promise<boolean>;
  onDone: () => void;
  onLeave: () => void;
};

/** The words of a template for one purpose alone; the template stays as it is. */
export function WordingEditor(props: Props) {
  const { first, lead, name, act, leave, disabled = false, templateId, onSave, onDone, onLeave } = props;
  const [mine] = useState(() => ({ ...first, mayEdit: true }));
  const draft = useTemplate(mine);
  const { text, notes, fits, changed } = draft;
  const fields = $api.useQuery("get", "/api/fields").data ?? nobody;
  const sheet = useRef<HTMLDivElement>(null);
  const latest = useRef<Wording>(text);
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
    const ok = await onSave(typed(latest.current, templateId));
    done.current = ok;
    if (ok) onDone();
  };
  useUnsaved(changed, "this wording", done);
  return (
    <div className="flex min-h-full flex-1 flex-col">
      <div className="mx-auto grid w-full max-w-6xl flex-1 grid-cols-1 gap-x-9 gap-y-4 px-3 py-5 sm:px-6 lg:grid-cols-[minmax(0,1fr)_16.5rem]">
        <div className="min-w-0">
          <p className="mb-3 text-ink-soft">{lead}</p>
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
        aria-label={name}
        className="sticky bottom-0 z-20 flex flex-wrap items-center justify-end gap-3 border-t border-rule-strong bg-ground px-4 py-2.5 sm:px-6"
      >
        <Button onClick={onLeave}>{leave}</Button>
        <Button look="main" disabled={!changed || parts.typing || disabled} onClick={() => void save()}>
          {act}
        </Button>
      </section>
      {writers.picking && <FieldList onPick={(f) => writers.pick(f.path)} onClose={writers.leaveFields} />}
    </div>
  );
}
