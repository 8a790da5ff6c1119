import type { EditorView } from "@codemirror/view";
import { keepPreviousData, useQueryClient } from "@tanstack/react-query";
import { Braces } from "lucide-react";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { $api, api, type Schemas, statusOf, wordsOf } from "../../api/client";
import { useCtrlKey } from "../../app/keys";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { Margin, type MarginNote } from "../../components/Margin";
import { Tabs } from "../../components/Tabs";
import { momentOf } from "../../components/time";
import { FieldList } from "./FieldList";
import { LanguageSelect } from "./LanguageSelect";
import { ReachNote } from "./ReachNote";
import { TextForm } from "./TextForm";
import { Trial } from "./Trial";

type Template = Schemas["TemplateOut"];
type Note = Schemas["Note"];
type State = Template["state"];

const nobody: Schemas["FieldInfo"][] = [];

/** One template: its wording in the middle, what is to say about it in the margin. */
export function TemplateSheet({ first }: { first: Template }) {
  const go = useNavigate();
  const queries = useQueryClient();
  const [stored, setStored] = useState(first);
  const [text, setText] = useState(() => wordsOfTemplate(first));
  const [notes, setNotes] = useState<Note[]>(first.notes);
  const [fits, setFits] = useState(first.fits);
  const [view, setView] = useState<"wording" | "trial">("wording");
  const [settled, setSettled] = useState({ subject: first.subject, body: first.body, language: first.language });
  const [picking, setPicking] = useState(false);
  const [stale, setStale] = useState<Template | null>(null);
  const [busy, setBusy] = useState(false);
  const fields = $api.useQuery("get", "/api/fields").data ?? nobody;
  const sheet = useRef<HTMLDivElement>(null);
  const views = useRef<{ subject?: EditorView; body?: EditorView; last?: EditorView }>({});
  const changed = (["name", "whenToUse", "subject", "body", "language"] as const).some((k) => text[k] !== stored[k]);
  const stops = notes.filter((n) => n.severity === "stops").length;

  const { subject, body, language } = text;
  useEffect(() => {
    let current = true;
    const timer = setTimeout(async () => {
      const { data } = await api.POST("/api/templates/check", { body: { subject, body, language } });
      if (!data || !current) return;
      setNotes(data.notes);
      setFits(data.fits);
      setSettled({ subject, body, language });
    }, 150);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [subject, body, language]);

  useEffect(() => {
    const leave = (event: BeforeUnloadEvent) => {
      if (changed) event.preventDefault();
    };
    window.addEventListener("beforeunload", leave);
    return () => window.removeEventListener("beforeunload", leave);
  }, [changed]);

  const store = async (state: State, version = stored.version) => {
    setBusy(true);
    const { data, error } = stored.id
      ? await api.PUT("/api/templates/{id}", { params: { path: { id: stored.id } }, body: { ...text, state, version } })
      : await api.POST("/api/templates", { body: { ...text, state } });
    setBusy(false);
    if (error) {
      if (statusOf(error) !== 409) return void toast.error(wordsOf(error));
      const { data: theirs } = await api.GET("/api/templates/{id}", { params: { path: { id: stored.id } } });
      return setStale(theirs ?? null);
    }
    setStale(null);
    setStored(data);
    setText(wordsOfTemplate(data));
    queries.invalidateQueries({ queryKey: ["get", "/api/templates"] });
    toast.success(
      state === "ready"
        ? "Stored. Everybody can pick it now."
        : state === "draft"
          ? "Stored as a draft."
          : "Withdrawn. Nobody can pick it any more.",
    );
    if (!stored.id) go(`/templates/${data.id}`, { replace: true });
  };
  useCtrlKey("Enter", () => {
    if (stored.mayEdit && !busy && changed) void store(stored.state);
  });

  const fix = useCallback((n: Note, words: string) => {
    const view = n.part === "subject" ? views.current.subject : views.current.body;
    view?.dispatch({ changes: { from: n.from, to: n.to, insert: words } });
    view?.focus();
  }, []);
  const pick = (path: string) => {
    const view = views.current.last ?? views.current.body;
    setPicking(false);
    if (!view) return;
    view.dispatch(view.state.replaceSelection(`{{${path}}}`));
    requestAnimationFrame(() => view.focus());
  };

  const reach = $api.useQuery(
    "post",
    "/api/templates/reach",
    { body: settled },
    { placeholderData: keepPreviousData },
  ).data;
  const marginNotes = useMemo(() => toMargin(notes, views, fix, fits, reach), [notes, fix, fits, reach]);
  const subjectNotes = useMemo(() => notes.filter((n) => n.part === "subject" && n.severity === "stops"), [notes]);
  const bodyNotes = useMemo(() => notes.filter((n) => n.part === "body" && n.severity === "stops"), [notes]);

  return (
    <div className="flex min-h-full flex-col">
      {stale && (
        <div
          role="alert"
          className="flex flex-wrap items-center gap-x-5 gap-y-1 border-b border-stop bg-stop-soft px-6 py-2"
        >
          <p>
            Somebody stored version {stale.version} of this template on {momentOf(stale.updatedAt)}, while you were
            writing. Nothing was overwritten.
          </p>
          <button type="button" className="text-main underline" onClick={() => store(stale.state, stale.version)}>
            Store mine over it
          </button>
          <button
            type="button"
            className="text-main underline"
            onClick={() => {
              setStored(stale);
              setText(wordsOfTemplate(stale));
              setStale(null);
            }}
          >
            Take theirs
          </button>
        </div>
      )}
      <div className="mx-auto grid w-full max-w-6xl flex-1 grid-cols-1 gap-x-9 gap-y-4 px-3 py-5 sm:px-6 lg:grid-cols-[minmax(0,1fr)_16.5rem]">
        <div className="min-w-0">
          <div className="mb-4 grid gap-x-6 gap-y-2 sm:grid-cols-2">
            <Input
              label="Name (recipients never see it)"
              value={text.name}
              readOnly={!stored.mayEdit}
              onChange={(e) => setText({ ...text, name: e.target.value })}
              serif
            />
            <Input
              label="When to use"
              value={text.whenToUse}
              readOnly={!stored.mayEdit}
              onChange={(e) => setText({ ...text, whenToUse: e.target.value })}
            />
          </div>
          <div className="mb-2 flex flex-wrap items-center justify-between gap-x-6 gap-y-2">
            <Tabs
              label="Show"
              choices={[
                ["wording", "Wording"],
                ["trial", "Try on a person"],
              ]}
              value={view}
              onChange={setView}
            />
            <LanguageSelect
              value={text.language}
              disabled={!stored.mayEdit}
              onChange={(v) => setText({ ...text, language: v })}
            />
          </div>
          <div ref={sheet} className="min-h-[24rem] border border-rule bg-sheet px-5 py-6 sm:px-12 sm:py-9">
            {view === "trial" && <Trial wording={settled} hardest={reach?.hardest} />}
            <div hidden={view === "trial"}>
              <TextForm
                label="Subject"
                hint="Subject"
                oneLine
                readOnly={!stored.mayEdit}
                text={text.subject}
                fields={fields}
                notes={subjectNotes}
                className="mb-5 border-b border-rule pb-2 text-[1.35rem] font-semibold"
                onChange={(s) => setText((t) => ({ ...t, subject: s }))}
                onReady={(v) => {
                  views.current.subject = v;
                }}
                onFocus={(v) => {
                  views.current.last = v;
                }}
              />
              <TextForm
                label="Letter"
                hint="The letter. { offers merge fields."
                readOnly={!stored.mayEdit}
                text={text.body}
                fields={fields}
                notes={bodyNotes}
                className="text-[1.13rem]"
                onChange={(s) => setText((t) => ({ ...t, body: s }))}
                onReady={(v) => {
                  views.current.body = v;
                }}
                onFocus={(v) => {
                  views.current.last = v;
                }}
              />
            </div>
          </div>
        </div>
        <Margin label="Margin notes" notes={marginNotes} sheet={sheet} tick={text} />
      </div>
      <section
        aria-label="Template"
        className="sticky bottom-0 z-20 flex flex-wrap items-center gap-x-4 gap-y-2 border-t border-rule-strong bg-ground px-4 py-2.5 sm:px-6"
      >
        <p role="status" className="min-w-0 text-sm text-ink-soft">
          {standing(stored, changed)}
        </p>
        {stored.mayEdit && (
          <div className="ml-auto flex flex-wrap items-center gap-2">
            <Button onClick={() => setPicking(true)}>
              <Braces size={15} aria-hidden /> Merge field
            </Button>
            {stored.state === "ready" && (
              <Button onClick={() => store("withdrawn")} disabled={busy}>
                Withdraw
              </Button>
            )}
            {stored.state !== "ready" && (
              <Button
                onClick={() => store("draft")}
                disabled={busy || (!changed && stored.state === "draft" && stored.id > 0)}
              >
                Store as draft
              </Button>
            )}
            <Button
              look="main"
              onClick={() => store("ready")}
              disabled={busy || stops > 0 || (!changed && stored.state === "ready")}
            >
              {stops > 0
                ? stops === 1
                  ? "1 red note"
                  : `${stops} red notes`
                : stored.state === "ready"
                  ? "Store new version"
                  : "Make ready"}
            </Button>
          </div>
        )}
      </section>
      {picking && <FieldList onPick={(f) => pick(f.path)} onClose={() => setPicking(false)} />}
    </div>
  );
}

function wordsOfTemplate(t: Template) {
  const { name, whenToUse, subject, body, language } = t;
  return { name, whenToUse, subject, body, language };
}

function standing(t: Template, changed: boolean): string {
  if (!t.mayEdit) return `Belongs to ${t.owner}; you can use it and not change it.`;
  if (!t.id) return "Not stored yet.";
  const who = {
    ready: "Ready: everybody can pick it.",
    draft: "A draft: nobody can pick it before it is made ready.",
    withdrawn: "Withdrawn: nobody can pick it.",
  }[t.state];
  return `${who} Version ${t.version}${changed ? ", changed and not stored" : ""}.`;
}

function toMargin(
  notes: Note[],
  views: React.RefObject<{ subject?: EditorView; body?: EditorView }>,
  fix: (n: Note, words: string) => void,
  fits: string[],
  reach: Schemas["Reach"] | undefined,
): MarginNote[] {
  const about: MarginNote = {
    key: "fits",
    tone: "quiet",
    anchor: () => null,
    content: <ReachNote fits={fits} reach={reach} />,
  };
  return [
    about,
    ...notes.map(
      (n, i): MarginNote => ({
        key: `${n.code} ${n.part} ${i}`,
        tone: n.severity === "stops" ? "stop" : "advice",
        anchor: () => {
          const view = n.part === "subject" ? views.current.subject : views.current.body;
          if (!view?.dom.offsetParent || n.from > view.state.doc.length) return null;
          const at = view.coordsAtPos(Math.min(n.to, view.state.doc.length), -1) ?? view.coordsAtPos(n.from);
          return at ? new DOMRect(at.left, at.top, 0, at.bottom - at.top) : null;
        },
        content: (
          <div className="text-sm">
            <p className="break-words">{n.message}</p>
            {n.fixes.map((words) => (
              <button
                key={words}
                type="button"
                onClick={() => fix(n, words)}
                className="mt-1 mr-2 rounded-sm border border-rule-strong px-1.5 text-main hover:border-main"
              >
                {words}
              </button>
            ))}
          </div>
        ),
      }),
    ),
  ];
}
