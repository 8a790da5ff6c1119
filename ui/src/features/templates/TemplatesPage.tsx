import { DndContext, PointerSensor, pointerWithin, useSensor, useSensors } from "@dnd-kit/core";
import { Plus, FolderTree as TreeIcon } from "lucide-react";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { $api } from "../../api/client";
import { useKeys } from "../../app/keys";
import { useSettled } from "../../app/useSettled";
import { useTyped } from "../../app/useTyped";
import { useHere } from "../../app/writing";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { plural } from "../../components/plural";
import { SearchLine } from "../../components/SearchLine";
import { FolderTree } from "../library/FolderTree";
import { pathOf } from "../library/folders";
import { Preview } from "../library/Preview";
import { TemplateLine } from "../library/TemplateLine";
import { type Folder, useChosen, useTemplates } from "../library/useLibrary";
import { LibraryDialogs } from "./LibraryDialogs";
import { LibraryFilters } from "./LibraryFilters";
import { type Asked, useLibraryActs } from "./useLibraryActs";

const more = 100;

/** The library: folders at the left, templates in the middle, one of them seen with a real person at the right. */
export function TemplatesPage() {
  const chosen = useChosen();
  const go = useNavigate();
  const search = useRef<HTMLInputElement>(null);
  const [at, setAt] = useState(0);
  const [typed, setTyped] = useTyped(chosen.q, (q) => {
    chosen.set({ q });
    setAt(0);
  });
  const [limit, setLimit] = useState(more);
  const [tree, setTree] = useState(false); // on a narrow screen
  const [asked, setAsked] = useState<Asked | null>(null);
  const templates = useTemplates(chosen, limit);
  const folders = $api.useQuery("get", "/api/folders").data?.folders ?? [];
  const list = templates.data?.templates ?? [];
  const total = templates.data?.total ?? 0;
  const line = list[Math.min(at, list.length - 1)];
  const ordered = chosen.sort === "order" || (chosen.sort === "" && chosen.view === "folder" && !chosen.q);

  const acts = useLibraryActs({ list, ordered, onAsk: setAsked, onMoved: setAt });
  // The line that was gone to, not the one that stands first by itself.
  const [moved, setMoved] = useState(false);
  useHere(moved && line?.state === "ready" ? { templateId: line.id } : null);
  const move = (by: number) => {
    setMoved(true);
    const next = Math.max(0, Math.min(list.length - 1, at + by));
    setAt(next);
    document.getElementById(`t${list[next]?.id}`)?.scrollIntoView({ block: "nearest" });
  };
  const settled = typed === chosen.q && templates.data !== undefined && !templates.isPlaceholderData;
  const open = useSettled(typed, settled, () => {
    if (line) go(`/templates/${line.id}`);
  });
  useKeys({
    "/": () => search.current?.focus(),
    j: () => move(1),
    k: () => move(-1),
    ArrowDown: () => move(1),
    ArrowUp: () => move(-1),
    s: () => line && acts.star(line),

    m: () => line?.mayEdit && setAsked({ what: "move", line }),
    Enter: open,
  });
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 8 } }));
  const filtered = chosen.q || chosen.state || chosen.kind || chosen.tag;

  return (
    <DndContext sensors={sensors} collisionDetection={pointerWithin} onDragEnd={acts.dropped} autoScroll={false}>
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
            <LibraryFilters chosen={chosen} />
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
                place={t.folderId === chosen.folder ? "" : pathOf(folders, t.folderId)}
                actions={acts.actions(t)}
                onFocus={() => {
                  setAt(i);
                  setMoved(true);
                }}
                onStar={() => acts.star(t)}
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
      <LibraryDialogs
        asked={asked}
        folders={folders}
        onMove={(line, to) => void acts.place(line, to, 0, `“${line.name}” was moved.`)}
        onClose={() => setAsked(null)}
      />
    </DndContext>
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
