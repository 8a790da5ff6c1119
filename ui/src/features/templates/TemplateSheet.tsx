import type { EditorView } from "@codemirror/view";
import { keepPreviousData } from "@tanstack/react-query";
import type { Editor } from "@tiptap/react";
import { useCallback, useMemo, useRef, useState } from "react";
import { flushSync } from "react-dom";
import { useNavigate, useSearchParams } from "react-router";
import { toast } from "sonner";
import { $api, api, type Schemas, wordsOf } from "../../api/client";
import { useCtrlKey } from "../../app/keys";
import { Input } from "../../components/Input";
import { LeaveGuard } from "../../components/LeaveGuard";
import { Margin } from "../../components/Margin";
import { partOf, showPart } from "../../components/PartsFrame";
import { Tabs } from "../../components/Tabs";
import { useSelected } from "../../editor/selected";
import { same, type Wording, wordingOf } from "../library/wording";
import { BringIn } from "./BringIn";
import { FieldList } from "./FieldList";
import { FormattedBody } from "./FormattedBody";
import { formatted } from "./formatted";
import { LanguageSelect } from "./LanguageSelect";
import { OriginNote } from "./OriginNote";
import { PageBody } from "./PageBody";
import { PagePartNote } from "./PagePartNote";
import { Stale } from "./Stale";
import { Strip } from "./Strip";
import { SubjectLine } from "./SubjectLine";
import { TemplateSettings } from "./TemplateSettings";
import { TextForm } from "./TextForm";
import { TextPart } from "./TextPart";
import { Trial } from "./Trial";
import { fixChip, toMargin } from "./templateMargin";
import { type Template, useTemplate } from "./useTemplate";
import { Versions } from "./Versions";
import { Wordings } from "./Wordings";

type Note = Schemas["Note"];
type View = "wording" | "text" | "trial" | "settings" | "versions";

const nobody: Schemas["FieldInfo"][] = [];

/** One template: its wording in the middle, what is to say about it in the margin. */
export function TemplateSheet({ first }: { first: Template }) {
  const go = useNavigate();
  const draft = useTemplate(first);
  const { stored, text, set, notes, sheetKey, settled, changed, busy, store } = draft;
  const asked = useSearchParams()[0].get("view");
  const [view, setView] = useState<View>(asked === "versions" ? asked : "wording");
  const [editor, setEditor] = useState<Editor | null>(null);
  const [subject, setSubject] = useState<Editor | null>(null);
  const inBody = useSelected(editor);
  const inSubject = useSelected(subject);
  const [inLast, setInLast] = useState<"subject" | "body">("body");
  const place = useRef({ from: 0, to: 0, typed: false }); // of the cursor when the fields were asked for
  const [picking, setPicking] = useState(false);
  const [bringing, setBringing] = useState(false);
  const [facts, setFacts] = useState<Schemas["Fact"][]>([]);
  const [page, setPage] = useState<Schemas["PageOut"]>();
  const [part, setPart] = useState<number | null>(null);
  const frame = useRef<HTMLIFrameElement>(null);
  const fields = $api.useQuery("get", "/api/fields").data ?? nobody;
  const sheet = useRef<HTMLDivElement>(null);
  const views = useRef<{ subject?: EditorView; body?: EditorView; last?: EditorView }>({});
  const chips = text.doc ? (inLast === "subject" ? subject : editor) : null;

  useCtrlKey("Enter", () => {
    if (stored.mayEdit && !busy && changed) void store(stored.state);
  });

  const fix = useCallback(
    (n: Note, words: string) => {
      const over = n.part === "subject" ? subject : editor;
      if (over && (n.where || n.part === "subject")) return fixChip(over, n, words);
      const in_ = n.part === "subject" ? views.current.subject : views.current.body;
      in_?.dispatch({ changes: { from: n.from, to: n.to, insert: words } });
      in_?.focus();
    },
    [editor, subject],
  );
  const askField = (typed: boolean, at = chips) => {
    const s = at?.state.selection;
    place.current = { from: s?.from ?? 0, to: s?.to ?? 0, typed };
    setPicking(true);
  };
  /** Back to the chips, where the cursor was: at once, so that the next key goes there. */
  const resume = (content: object | null) => {
    flushSync(() => setPicking(false));
    if (!chips) return;
    const { from, to } = place.current;
    const chain = chips.chain().setTextSelection({ from, to });
    (content ? chain.insertContent(content) : chain).run();
    chips.view.focus();
  };
  const pick = (path: string) => {
    if (chips) return resume({ type: "field", attrs: { path } });
    const over = views.current.last ?? views.current.body;
    setPicking(false);
    if (!over) return;
    over.dispatch(over.state.replaceSelection(`{{${path}}}`));
    requestAnimationFrame(() => over.focus());
  };
  /** No field was picked: the brace that was typed stays. */
  const leaveFields = () => {
    if (!chips) return setPicking(false);
    resume(place.current.typed ? { type: "text", text: "{" } : null);
  };

  const reach = $api.useQuery(
    "post",
    "/api/templates/reach",
    { body: settled },
    // Of very many people some are counted at a time.
    {
      placeholderData: keepPreviousData,
      staleTime: 30_000,
      refetchInterval: (q) => (q.state.data?.running ? 20 : false),
    },
  ).data;
  // Changes of one page go to the server one after the other; nothing is stored meanwhile.
  const queue = useRef(Promise.resolve());
  const [typing, setTyping] = useState(false);
  const setPagePart = (index: number, words: string) => {
    const mine = queue.current.then(async () => {
      const { data, error } = await api.POST("/api/templates/page-part", {
        body: { body: latest.current.body, part: index, text: words },
      });
      if (!data) return void toast.error(wordsOf(error));
      latest.current = { ...latest.current, body: data.body };
      setPage(data);
      showPart(frame.current?.contentDocument, index, data.parts[index]?.shown ?? "");
      set({ body: data.body });
    });
    queue.current = mine.finally(() => {
      if (queue.current === last) setTyping(false);
    });
    const last = queue.current;
  };
  const latest = useRef(text);
  latest.current = text;
  const partNote =
    page && part !== null && view === "wording" && text.kind === "html"
      ? {
          key: "part",
          tone: "quiet" as const,
          anchor: () => {
            const inner = partOf(frame.current?.contentDocument, part)?.getBoundingClientRect();
            const outer = frame.current?.getBoundingClientRect();
            if (!inner || !outer) return null;
            return new DOMRect(outer.left + inner.left, outer.top + inner.top, inner.width, inner.height);
          },
          content: (
            <PagePartNote
              key={part}
              page={page}
              part={part}
              fields={fields}
              onTyping={() => setTyping(true)}
              onText={setPagePart}
              onClose={() => setPart(null)}
            />
          ),
        }
      : null;
  const marginNotes = useMemo(() => {
    const on = view === "wording" && text.doc ? (inLast === "subject" ? inSubject : inBody) : [];
    return toMargin({ notes, views, editor, subject, fix, fits: draft.fits, reach, chips, selected: on, fields });
  }, [notes, editor, subject, fix, draft.fits, reach, inBody, inSubject, inLast, chips, fields, view, text.doc]);
  const bodyNotes = useMemo(() => notes.filter((n) => n.part === "body" && n.severity === "stops"), [notes]);

  const bringBack = (old: Template) => {
    if (!old.doc) setEditor(null);
    setPart(null);
    setPage(undefined);
    draft.load({ ...wordingOf(old), tags: text.tags });
    setView("wording");
    toast.success(`The wording of version ${old.version} is back in the editor. Save it to make it the newest.`);
  };
  const formatIt = async () => {
    const made = await formatted(() => latest.current);
    if (!made) return;
    const before = latest.current;
    const after = { ...before, kind: "formatted" as const, ...made };
    draft.load(after);
    const back = () => {
      const { doc: _doc, ...rest } = latest.current;
      if (!same(latest.current, after))
        return void toast.error("You have gone on writing, so the template stays formatted.");
      setEditor(null);
      draft.load({ ...rest, kind: before.kind, body: before.body, subject: before.subject });
    };
    toast.success("The template is formatted.", { action: { label: "Undo", onClick: back } });
  };
  const bringIn = async (w: Partial<Wording>) => {
    setBringing(false);
    setPart(null);
    setPage(undefined);
    // A subject that was typed in the text form gets its chips.
    const typedSubject = w.doc && !w.subject && text.subject;
    const made = typedSubject
      ? (await api.POST("/api/templates/formatted", { body: { subject: text.subject, body: "" } })).data
      : undefined;
    draft.load({ ...text, ...w, ...(made ? { subjectDoc: made.subjectDoc } : {}) });
  };
  const copy = async (follow: boolean) => {
    const { data, error } = await api.POST("/api/templates/{id}/copy", {
      params: { path: { id: stored.id }, query: { follow } },
    });
    if (!data) return void toast.error(wordsOf(error));
    toast.success(
      follow ? "Your own copy was added. It will tell you when the original changes." : "A copy was added as a draft.",
    );
    go(`/templates/${data.id}`);
  };
  const tabs: [View, string][] = [
    ["wording", "Wording"],
    ...(text.kind === "plain" ? [] : [["text", "Text part"] as [View, string]]),
    ["trial", "Try on a person"],
    ["settings", "Settings"],
    ...(stored.id ? [["versions", "Versions"] as [View, string]] : []),
  ];

  return (
    <div className="flex min-h-full flex-col">
      <Stale draft={draft} />
      <LeaveGuard changed={changed} what="this template" past={() => draft.kept.current} />
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
          <div
            ref={sheet}
            className={`min-h-[24rem] border border-rule bg-sheet py-6 sm:py-9 ${text.kind !== "plain" && (view === "wording" || view === "trial") ? "paper" : ""} ${text.kind === "html" && view === "wording" ? "px-3 sm:px-5" : "px-5 sm:px-12"}`}
          >
            {view === "trial" && (
              <Trial wording={settled} documents={text.documents} hardest={reach?.hardest} onFacts={setFacts} />
            )}
            {view === "text" && <TextPart draft={draft} fields={fields} />}
            {view === "settings" && <TemplateSettings key={sheetKey} draft={draft} onCopy={copy} />}
            {view === "versions" && <Versions key={stored.version} template={stored} onBringBack={bringBack} />}
            <div hidden={view !== "wording"}>
              <SubjectLine
                draft={draft}
                fields={fields}
                onText={(v) => {
                  views.current.subject = v;
                }}
                onTextFocus={(v) => {
                  views.current.last = v;
                }}
                onChips={setSubject}
                onChipsFocus={() => setInLast("subject")}
                onBrace={() => askField(true, subject)}
                onEnter={() => editor?.commands.focus("start")}
              />
              {text.doc ? (
                <FormattedBody
                  key={sheetKey}
                  first={text.doc}
                  fields={fields}
                  readOnly={!stored.mayEdit}
                  onReady={setEditor}
                  onChange={(doc) => set({ doc })}
                  onFocus={() => setInLast("body")}
                  onBrace={(typed) => {
                    setInLast("body");
                    askField(typed, editor);
                  }}
                />
              ) : text.kind === "html" ? (
                <PageBody
                  key={sheetKey}
                  body={text.body}
                  known={page}
                  readOnly={!stored.mayEdit}
                  chosen={part}
                  frame={frame}
                  onChoose={(index, now) => {
                    setPage(now);
                    setPart(index);
                  }}
                  onPage={(now) => {
                    setPage(now);
                    set({ body: now.body });
                  }}
                />
              ) : (
                <TextForm
                  label="Letter"
                  hint="Write the letter. Type { for merge fields."
                  readOnly={!stored.mayEdit}
                  text={text.body}
                  fields={fields}
                  notes={bodyNotes}
                  className="text-[1.13rem]"
                  onChange={(body) => set({ body })}
                  onReady={(v) => {
                    views.current.body = v;
                  }}
                  onFocus={(v) => {
                    views.current.last = v;
                  }}
                />
              )}
            </div>
          </div>
        </div>
        <Margin
          label="Margin notes"
          notes={partNote ? [...marginNotes, partNote] : marginNotes}
          sheet={sheet}
          tick={[text, part]}
        />
      </div>
      <Strip
        draft={typing ? { ...draft, busy: true } : draft}
        plain={
          view === "wording" && !text.doc
            ? {
                onPage: () => setBringing(true),
                ...(text.kind === "plain" ? { onFormat: formatIt, onField: () => askField(false) } : {}),
              }
            : undefined
        }
        onCopy={() => copy(true)}
      />
      {picking && <FieldList facts={facts} onPick={(f) => pick(f.path)} onClose={leaveFields} />}
      {bringing && <BringIn name={text.name} onClose={() => setBringing(false)} onTake={bringIn} />}
    </div>
  );
}
