import { useMemo, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { $api, type Schemas } from "../../api/client";
import { useCtrlKey } from "../../app/keys";
import { useUnsaved } from "../../app/unsaved";
import { Input } from "../../components/Input";
import { Margin } from "../../components/Margin";
import { Tabs } from "../../components/Tabs";
import { BringIn } from "./BringIn";
import { FieldList } from "./FieldList";
import { LanguageSelect } from "./LanguageSelect";
import { OriginNote } from "./OriginNote";
import { Stale } from "./Stale";
import { Strip } from "./Strip";
import { TemplateSettings } from "./TemplateSettings";
import { TemplateWords } from "./TemplateWords";
import { TextPart } from "./TextPart";
import { Trial } from "./Trial";
import { toMargin } from "./templateMargin";
import { usePageParts } from "./usePageParts";
import { useReach } from "./useReach";
import { type Template, useTemplate } from "./useTemplate";
import { useWordingActs } from "./useWordingActs";
import { useWriters } from "./useWriters";
import { Versions } from "./Versions";
import { Wordings } from "./Wordings";

type View = "wording" | "text" | "trial" | "settings" | "versions";

const nobody: Schemas["FieldInfo"][] = [];

/** One template: its wording in the middle, what is to say about it in the margin. */
export function TemplateSheet({ first }: { first: Template }) {
  const draft = useTemplate(first);
  const { stored, text, set, notes, fits, settled, changed, busy, store } = draft;
  const asked = useSearchParams()[0].get("view");
  const [view, setView] = useState<View>(asked === "versions" ? asked : "wording");
  const [bringing, setBringing] = useState(false);
  const [facts, setFacts] = useState<Schemas["Fact"][]>([]);
  const fields = $api.useQuery("get", "/api/fields").data ?? nobody;
  const reach = useReach(settled);
  const sheet = useRef<HTMLDivElement>(null);
  const latest = useRef(text);
  latest.current = text;
  const writers = useWriters(!!text.doc);
  const parts = usePageParts(draft, latest);
  const acts = useWordingActs(draft, latest, (noChips) => {
    if (noChips) writers.setEditor(null);
    parts.forget();
  });

  useCtrlKey("Enter", () => {
    if (stored.mayEdit && !busy && changed) void store(stored.state);
  });

  const { views, editor, subject, fix, chips, selected } = writers;
  const marginNotes = useMemo(() => {
    const on = view === "wording" && text.doc ? selected : [];
    return toMargin({ notes, views, editor, subject, fix, fits, reach, chips, selected: on, fields });
  }, [notes, views, editor, subject, fix, fits, reach, selected, chips, fields, view, text.doc]);
  const partNotes = view === "wording" && text.kind === "html" ? parts.note(fields) : [];
  const seen = view === "wording" || view === "trial";
  const looks = `${text.kind !== "plain" && seen ? "paper" : ""} ${text.kind === "html" && view === "wording" ? "px-3 sm:px-5" : "px-5 sm:px-12"}`;
  const tabs: [View, string][] = [
    ["wording", "Wording"],
    ...(text.kind === "plain" ? [] : [["text", "Text part"] as [View, string]]),
    ["trial", "Try on a person"],
    ["settings", "Settings"],
    ...(stored.id ? [["versions", "Versions"] as [View, string]] : []),
  ];

  useUnsaved(changed, "this template", draft.kept);
  return (
    <div className="flex min-h-full flex-col">
      <Stale draft={draft} />
      {stored.originId !== undefined && <OriginNote draft={draft} />}
      <div className="mx-auto grid w-full max-w-6xl flex-1 grid-cols-1 gap-x-9 gap-y-4 px-3 py-5 sm:px-6 lg:grid-cols-[minmax(0,1fr)_16.5rem]">
        <div className="min-w-0">
          <div className="mb-4 grid gap-x-6 gap-y-2 sm:grid-cols-2">
            <Input
              label="Name (recipients never see it)"
              value={text.name}
              readOnly={!stored.mayEdit || stored.sisterOf !== undefined}
              onChange={(e) => set({ name: e.target.value })}
              serif
            />
            <Input
              label="When to use"
              value={text.whenToUse}
              readOnly={!stored.mayEdit || stored.sisterOf !== undefined}
              onChange={(e) => set({ whenToUse: e.target.value })}
            />
          </div>
          <Wordings draft={draft} />
          <div className="mt-1 mb-2 flex flex-wrap items-center justify-between gap-x-6 gap-y-1">
            <div className="overflow-x-auto">
              <Tabs label="Show" choices={tabs} value={view} onChange={setView} />
            </div>
            <LanguageSelect
              value={text.language}
              taken={draft.taken}
              disabled={!stored.mayEdit}
              onChange={(language) => set({ language })}
            />
          </div>
          <div ref={sheet} className={`min-h-[24rem] border border-rule bg-sheet py-6 sm:py-9 ${looks}`}>
            {view === "trial" && (
              <Trial wording={settled} documents={text.documents} hardest={reach?.hardest} onFacts={setFacts} />
            )}
            {view === "text" && <TextPart draft={draft} fields={fields} />}
            {view === "settings" && <TemplateSettings key={draft.sheetKey} draft={draft} onCopy={acts.copy} />}
            {view === "versions" && (
              <Versions
                key={stored.version}
                template={stored}
                onBringBack={(old) => {
                  acts.bringBack(old);
                  setView("wording");
                }}
              />
            )}
            <div hidden={view !== "wording"}>
              <TemplateWords draft={draft} fields={fields} writers={writers} parts={parts} />
            </div>
          </div>
        </div>
        <Margin label="Margin notes" notes={[...marginNotes, ...partNotes]} sheet={sheet} tick={[text, parts.part]} />
      </div>
      <Strip
        draft={parts.typing ? { ...draft, busy: true } : draft}
        plain={
          view === "wording" && !text.doc
            ? {
                onPage: () => setBringing(true),
                ...(text.kind === "plain" ? { onFormat: acts.formatIt, onField: () => writers.askField(false) } : {}),
              }
            : undefined
        }
        onCopy={() => acts.copy(true)}
      />
      {writers.picking && (
        <FieldList facts={facts} onPick={(f) => writers.pick(f.path)} onClose={writers.leaveFields} />
      )}
      {bringing && (
        <BringIn
          name={text.name}
          onClose={() => setBringing(false)}
          onTake={(w) => {
            setBringing(false);
            void acts.bringIn(w);
          }}
        />
      )}
    </div>
  );
}
