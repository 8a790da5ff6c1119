import { DndContext, type DragEndEvent, PointerSensor, pointerWithin, useSensor, useSensors } from "@dnd-kit/core";
import { Plus, FolderTree as TreeIcon } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { $api, api } from "../../api/client";
import { useKeys } from "../../app/keys";
import { useSettled } from "../../app/useSettled";
import { useHere, useWriting } from "../../app/writing";
import type { Action } from "../../components/Actions";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { plural } from "../../components/plural";
import { SearchLine } from "../../components/SearchLine";
import { Select } from "../../components/Select";
import { DeleteTemplate } from "../library/DeleteTemplate";
import { FolderTree } from "../library/FolderTree";
import { pathOf } from "../library/folders";
import { MoveDialog } from "../library/MoveDialog";
import { Preview } from "../library/Preview";
import { RightsDialog } from "../library/RightsDialog";
import { TemplateLine } from "../library/TemplateLine";
import { type Folder, type Line, useChange, useChosen, useTemplates } from "../library/useLibrary";

type Asked = { what: "move" | "rights" | "delete"; line: Line };

const more = 100;

/** The library: folders at the left, templates in the middle, one of them seen with a real person at the right. */
export function TemplatesPage() {
  const chosen = useChosen();
  const go = useNavigate();
  const change = useChange();
  const search = useRef<HTMLInputElement>(null);
  const [typed, setTyped] = useState(chosen.q);
  const [at, setAt] = useState(0);
  const [limit, setLimit] = useState(more);
  const [tree, setTree] = useState(false); // on a narrow screen
  const [asked, setAsked] = useState<Asked | null>(null);
  const templates = useTemplates(chosen, limit);
  const folders = $api.useQuery("get", "/api/folders").data?.folders ?? [];
  const tags = $api.useQuery("get", "/api/tags").data ?? [];
  const list = templates.data?.templates ?? [];
  const total = templates.data?.total ?? 0;
  const line = list[Math.min(at, list.length - 1)];
  const ordered = chosen.sort === "order" || (chosen.sort === "" && chosen.view === "folder" && !chosen.q);

  const set = useRef(chosen.set);
  set.current = chosen.set;
  useEffect(() => {
    if (typed === chosen.q) return;
    const timer = setTimeout(() => {
      set.current({ q: typed });
      setAt(0);
    }, 120);
    return () => clearTimeout(timer);
  }, [typed, chosen.q]);

  // The line that was gone to, not the one that stands first by itself.
  const [moved, setMoved] = useState(false);
  useHere(moved && line?.state === "ready" ? { templateId: line.id } : null);
  const move = (by: number) => {
    setMoved(true);
    const next = Math.max(0, Math.min(list.length - 1, at + by));
    setAt(next);
    document.getElementById(`t${list[next]?.id}`)?.scrollIntoView({ block: "nearest" });
  };
  const write = useWriting();
  const settled = typed === chosen.q && templates.data !== undefined && !templates.isPlaceholderData;
  const open = useSettled(typed, settled, () => {
    if (line) go(`/templates/${line.id}`);
  });
  const place = (t: Line, folderId: number | undefined, before = 0, done?: string) =>
    change(
      api.PUT("/api/templates/{id}/place", {
        params: { path: { id: t.id } },
        body: { before, ...(folderId ? { folderId } : {}) },
      }),
      done,
    );
  /** Moves a template by one in the own order of its folder. */
  const step = (t: Line | undefined, by: -1 | 1) => {
    const i = list.findIndex((x) => x.id === t?.id);
    const next = list[i + by];
    if (!t?.mayEdit || !next) return;
    void place(t, t.folderId, by < 0 ? next.id : (list[i + 2]?.id ?? 0)).then((ok) => ok && setAt(i + by));
  };
  const star = (t: Line) => {
    const params = { params: { path: { id: t.id } } };
    void change(
      t.starred ? api.DELETE("/api/templates/{id}/star", params) : api.PUT("/api/templates/{id}/star", params),
    );
  };
  const copy = async (t: Line, follow = false) => {
    const answer = await api.POST("/api/templates/{id}/copy", {
      params: { path: { id: t.id }, query: { follow } },
    });
    if (await change(Promise.resolve(answer), "A copy was added as a draft.")) go(`/templates/${answer.data?.id}`);
  };
  useKeys({
    "/": () => search.current?.focus(),
    j: () => move(1),
    k: () => move(-1),
    ArrowDown: () => move(1),
    ArrowUp: () => move(-1),
    s: () => line && star(line),

    m: () => line?.mayEdit && setAsked({ what: "move", line }),
    Enter: open,
  });
  const actions = (t: Line): Action[] => [
    ["Open", () => go(`/templates/${t.id}`)],
    ...(t.state === "ready" ? [["Use this template", () => write({ templateId: t.id })] as Action] : []),
    ["Duplicate", () => void copy(t)],
    ["My own copy that follows it", () => void copy(t, true)],
    ...(t.mayEdit
      ? ([
          ["Move to a folder", () => setAsked({ what: "move", line: t })],
          ...(ordered
            ? ([
                ["Move up", () => step(t, -1)],
                ["Move down", () => step(t, 1)],
              ] as Action[])
            : []),
          ["Who can use it", () => setAsked({ what: "rights", line: t })],
          null,
          ["Delete", () => setAsked({ what: "delete", line: t })],
        ] as Action[])
      : []),
  ];
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 8 } }));
  const dropped = ({ active, over }: DragEndEvent) => {
    const what = active.data.current as { template?: Line; folder?: Folder };
    const where = over?.data.current as { into?: Folder; before?: Line } | undefined;
    if (!where) return;
    const t = what.template;
    if (t && where.into) void place(t, where.into.id, 0, `“${t.name}” is in “${where.into.name}” now.`);
    if (t && where.before && ordered && where.before.id !== t.id && where.before.folderId === t.folderId)
      void place(t, t.folderId, where.before.id);
    const f = what.folder;
    if (f && where.into && where.into.id !== f.id)
      void change(
        api.PUT("/api/folders/{id}", {
          params: { path: { id: f.id } },
          body: { name: f.name, parentId: where.into.id, before: 0 },
        }),
        `“${f.name}” is in “${where.into.name}” now.`,
      );
  };
  const filtered = chosen.q || chosen.state || chosen.kind || chosen.tag;

  return (
    <DndContext sensors={sensors} collisionDetection={pointerWithin} onDragEnd={dropped} autoScroll={false}>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2 px-4 pt-4 pb-3 sm:px-6">
        <h1 className="font-serif text-2xl font-semibold">Templates</h1>
        <SearchLine
          ref={search}
          label="Search templates"
          hint="Name, use, words  ( / )"
          value={typed}
          onChange={setTyped}
          onOpen={open}
        />
        <Button className="md:hidden" onClick={() => setTree(!tree)} aria-expanded={tree}>
          <TreeIcon size={15} aria-hidden /> Folders
        </Button>
        <Link
          to={chosen.folder ? `/templates/new?folder=${chosen.folder}` : "/templates/new"}
          className="ml-auto inline-flex items-center gap-1.5 text-main hover:underline"
        >
          <Plus size={15} aria-hidden /> New template
        </Link>
      </div>
      <div className="grid grid-cols-1 gap-x-5 px-3 pb-8 sm:px-6 md:grid-cols-[14.5rem_minmax(0,1fr)] xl:grid-cols-[14.5rem_minmax(0,1fr)_26rem]">
        <div className={`${tree ? "mb-4" : "hidden"} md:block`}>
          <FolderTree
            chosen={chosen}
            onChoose={() => {
              setTyped("");
              setAt(0);
              setLimit(more);
              setTree(false);
            }}
          />
        </div>
        <div className="min-w-0">
          <div className="mb-2 flex flex-wrap items-baseline gap-x-4 gap-y-1">
            <p role="status" className="mr-auto text-sm">
              <b className="font-serif text-base">{titleOf(chosen.view, folders, chosen.folder)}</b>{" "}
              <span className="text-ink-soft">{templates.data ? plural(total, "template") : ""}</span>
            </p>
            <Select
              label="State"
              value={chosen.state}
              choices={[
                ["", "any state"],
                ["ready", "ready"],
                ["draft", "draft"],
                ["withdrawn", "withdrawn"],
              ]}
              onChange={(state) => chosen.set({ state })}
            />
            <Select
              label="Fits"
              value={chosen.kind}
              choices={[
                ["", "for any record"],
                ["lead", "for leads"],
                ["contact", "for contacts"],
                ["deal", "for deals"],
              ]}
              onChange={(kind) => chosen.set({ kind })}
            />
            {tags.length > 0 && (
              <Select
                label="Tag"
                value={chosen.tag}
                choices={[["", "any tag"], ...tags.map((t) => [t, `#${t}`] as const)]}
                onChange={(tag) => chosen.set({ tag })}
              />
            )}
            <Select
              label="Order"
              value={chosen.sort}
              choices={[
                ["", chosen.q ? "best fit first" : chosen.view === "folder" ? "our order" : "by name"],
                ["name", "by name"],
                ["last", "last sent"],
                ["used", "most sent"],
                ["changed", "last changed"],
                ["order", "our order"],
              ]}
              onChange={(sort) => chosen.set({ sort })}
            />
          </div>
          <ProblemText error={templates.error} />
          {templates.isPending && <Loading />}
          {templates.data && list.length === 0 && (
            <Empty view={chosen.view} filtered={!!filtered} onAll={() => chosen.set({}, true)} />
          )}
          <ul aria-label="Templates" className="border-t border-rule bg-sheet empty:hidden">
            {list.map((t, i) => (
              <TemplateLine
                key={t.id}
                line={t}
                active={t.id === line?.id}
                place={chosen.view === "folder" ? "" : pathOf(folders, t.folderId)}
                actions={actions(t)}
                onFocus={() => {
                  setAt(i);
                  setMoved(true);
                }}
                onStar={() => star(t)}
              />
            ))}
          </ul>
          {list.length < total && (
            <Button className="mt-3" onClick={() => setLimit(limit + more)}>
              Show more of the {total}
            </Button>
          )}
        </div>
        <div className="hidden min-w-0 xl:block">
          <div className="sticky top-3 max-h-[calc(100vh-8rem)] overflow-auto">
            {line && <Preview key={line.id} id={line.id} />}
          </div>
        </div>
      </div>
      {asked?.what === "move" && (
        <MoveDialog
          title={`Move “${asked.line.name}” into`}
          folders={folders}
          now={asked.line.folderId}
          outside="No folder"
          onMove={(to) => void place(asked.line, to, 0, `“${asked.line.name}” was moved.`)}
          onClose={() => setAsked(null)}
        />
      )}
      {asked?.what === "rights" && <TemplateRights line={asked.line} onClose={() => setAsked(null)} />}
      {asked?.what === "delete" && (
        <DeleteTemplate id={asked.line.id} name={asked.line.name} onClose={() => setAsked(null)} />
      )}
    </DndContext>
  );
}

function TemplateRights({ line, onClose }: { line: Line; onClose: () => void }) {
  const change = useChange();
  const t = $api.useQuery("get", "/api/templates/{id}", { params: { path: { id: line.id } } }, { staleTime: 0 });
  if (!t.data || t.isFetching) return null;
  return (
    <RightsDialog
      title={`Who can use “${line.name}”`}
      own={t.data.own}
      inside={line.folderId ? "its folder" : "the library: everybody"}
      onStore={(body) =>
        change(api.PUT("/api/templates/{id}/rights", { params: { path: { id: line.id } }, body }), "Stored.")
      }
      onClose={onClose}
    />
  );
}

function titleOf(view: string, folders: Folder[], folder: number): string {
  const names: Record<string, string> = {
    all: "All templates",
    recent: "Recently sent",
    mine: "Mine",
    starred: "Starred",
    outside: "No folder",
  };
  return names[view] ?? pathOf(folders, folder);
}

function Empty({ view, filtered, onAll }: { view: string; filtered: boolean; onAll: () => void }) {
  const words: Record<string, string> = {
    all: "A template is a letter you write once and fill in for each person. Write your first one, or copy one from the starter shelf.",
    recent: "Templates you’ve used recently appear here.",
    mine: "You have no templates of your own yet. Write one, or duplicate one from the team.",
    starred: "Star the templates you use every day to see them here (key: s).",
    outside: "Every template is in a folder.",
    folder: "This folder is empty. Drag a template onto it, or press m on a template.",
  };
  return (
    <div className="border-t border-rule px-2 py-8 text-ink-soft">
      <p>{filtered ? "No templates match your search." : words[view]}</p>
      {filtered && (
        <Button look="quiet" className="mt-1 px-0!" onClick={onAll}>
          Show all templates
        </Button>
      )}
    </div>
  );
}
