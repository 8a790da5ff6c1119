import { useDraggable, useDroppable } from "@dnd-kit/core";
import { Clock, FileText, Folder as FolderIcon, Inbox, Lock, Plus, Star, User } from "lucide-react";
import { type ReactNode, useState } from "react";
import { Link } from "react-router";
import { toast } from "sonner";
import { $api, api } from "../../api/client";
import { type Action, Actions } from "../../components/Actions";
import { DeleteFolder } from "./DeleteFolder";
import { beside, countOf, depthOf, isIn } from "./folders";
import { MoveDialog } from "./MoveDialog";
import { NameDialog } from "./NameDialog";
import { RightsDialog } from "./RightsDialog";
import { type Chosen, type Folder, useChange, type View } from "./useLibrary";

type Asked = { what: "new" | "rename" | "move" | "rights" | "delete"; folder?: Folder };

const views: [View, string, typeof Star][] = [
  ["all", "All templates", FileText],
  ["recent", "Recently sent", Clock],
  ["mine", "Mine", User],
  ["starred", "Starred", Star],
];

const besides = [
  ["Starter shelf", "/shelf"],
  ["Passages", "/passages"],
  ["Stationery", "/stationery"],
  ["Documents", "/documents"],
  ["Import and export", "/library"],
] as const;

/** The left of the library: ways to look at it, and its folders. */
export function FolderTree({ chosen, onChoose }: { chosen: Chosen; onChoose: () => void }) {
  const list = $api.useQuery("get", "/api/folders");
  const folders = list.data?.folders ?? [];
  const [asked, setAsked] = useState<Asked | null>(null);
  const change = useChange();
  const show = (changes: Record<string, string>) => {
    chosen.set({ ...changes, ...(chosen.state ? { state: chosen.state } : {}) }, true);
    onChoose();
  };
  const put = (f: Folder, parentId: number | undefined, before?: number, done?: string) =>
    change(
      api.PUT("/api/folders/{id}", {
        params: { path: { id: f.id } },
        body: { name: f.name, ...(parentId ? { parentId } : {}), ...(before === undefined ? {} : { before }) },
      }),
      done,
    );
  const step = (f: Folder, by: -1 | 1) => {
    const next = beside(folders, f, by);
    if (!next) return void toast(by < 0 ? "It’s already first." : "It’s already last.");
    const before = by < 0 ? next.id : (beside(folders, next, 1)?.id ?? 0);
    void put(f, f.parentId, before);
  };
  const actions = (f: Folder): Action[] => [
    ["New subfolder", () => setAsked({ what: "new", folder: f })],
    ["Rename", () => setAsked({ what: "rename", folder: f })],
    ["Move up", () => step(f, -1)],
    ["Move down", () => step(f, 1)],
    ["Move to a folder", () => setAsked({ what: "move", folder: f })],
    ["Who can use it", () => setAsked({ what: "rights", folder: f })],
    null,
    ["Delete", () => setAsked({ what: "delete", folder: f })],
  ];
  const f = asked?.folder;
  return (
    <nav aria-label="Folders" className="text-[0.95rem]">
      <ul>
        {views.map(([view, name, Icon]) => (
          <Entry
            key={view}
            current={chosen.view === view}
            onClick={() => show({ view: view === "all" ? "" : view })}
            icon={<Icon size={15} aria-hidden className="shrink-0" />}
            name={name}
            {...(view === "all" && list.data ? { count: list.data.total } : {})}
          />
        ))}
      </ul>
      <div className="mt-4 mb-1 flex items-center border-b border-rule pb-0.5 pl-2">
        <h2 className="text-sm font-semibold text-ink-soft">Folders</h2>
        <button
          type="button"
          onClick={() => setAsked({ what: "new" })}
          className="ml-auto flex items-center gap-1 rounded-sm px-1 text-sm text-main hover:underline"
        >
          <Plus size={14} aria-hidden /> New folder
        </button>
      </div>
      {list.data && folders.length === 0 && (
        <p className="px-2 text-sm text-ink-soft">Use folders to group letters by stage.</p>
      )}
      <ul>
        {folders.map((folder) => (
          <FolderEntry
            key={folder.id}
            folder={folder}
            deep={depthOf(folders, folder)}
            count={countOf(folders, folder)}
            current={chosen.folder === folder.id}
            onClick={() => show({ folder: String(folder.id) })}
            {...(folder.mayEdit ? { actions: actions(folder) } : {})}
          />
        ))}
        {folders.length > 0 && (
          <Entry
            current={chosen.view === "outside"}
            onClick={() => show({ view: "outside" })}
            icon={<Inbox size={15} aria-hidden className="shrink-0" />}
            name="No folder"
            count={list.data?.outside ?? 0}
          />
        )}
      </ul>
      <h2 className="mt-4 mb-1 border-b border-rule pb-0.5 pl-2 text-sm font-semibold text-ink-soft">More</h2>
      <ul>
        {besides.map(([name, to]) => (
          <li key={to}>
            <Link to={to} className="block rounded-sm px-2 py-1 hover:bg-main-soft">
              {name}
            </Link>
          </li>
        ))}
      </ul>
      {asked?.what === "new" && (
        <NameDialog
          title={f ? `New folder in “${f.name}”` : "New folder"}
          label="Folder name"
          first=""
          onStore={(name) =>
            change(api.POST("/api/folders", { body: { name, ...(f ? { parentId: f.id } : {}) } }), "Folder added.")
          }
          onClose={() => setAsked(null)}
        />
      )}
      {asked?.what === "rename" && f && (
        <NameDialog
          title={`Rename “${f.name}”`}
          label="Folder name"
          first={f.name}
          onStore={(name) => put({ ...f, name }, f.parentId)}
          onClose={() => setAsked(null)}
        />
      )}
      {asked?.what === "move" && f && (
        <MoveDialog
          title={`Move “${f.name}” into`}
          folders={folders.filter((g) => !isIn(folders, g.id, f.id))}
          now={f.parentId}
          outside="Top level"
          onMove={(to) => void put(f, to, 0, `“${f.name}” was moved.`)}
          onClose={() => setAsked(null)}
        />
      )}
      {asked?.what === "rights" && f && (
        <RightsDialog
          title={`Who can use templates in “${f.name}”`}
          own={f.own}
          inside={f.parentId ? "its parent folder" : "the library: everybody"}
          onStore={(body) =>
            change(api.PUT("/api/folders/{id}/rights", { params: { path: { id: f.id } }, body }), "Stored.")
          }
          onClose={() => setAsked(null)}
        />
      )}
      {asked?.what === "delete" && f && (
        <DeleteFolder
          folder={f}
          empty={countOf(folders, f) === 0 && !folders.some((g) => g.parentId === f.id)}
          onDone={() => {
            if (chosen.folder > 0 && isIn(folders, chosen.folder, f.id)) show({});
          }}
          onClose={() => setAsked(null)}
        />
      )}
    </nav>
  );
}

type EntryProps = { current: boolean; onClick: () => void; icon: ReactNode; name: string; count?: number };

function Entry({ current, onClick, icon, name, count }: EntryProps) {
  return (
    <li>
      <button
        type="button"
        aria-current={current ? "page" : undefined}
        onClick={onClick}
        className={`flex w-full items-center gap-2 rounded-sm px-2 py-1 text-left ${current ? "bg-main-soft font-semibold text-main" : "hover:bg-main-soft"}`}
      >
        {icon}
        <span className="min-w-0 flex-1 truncate">{name}</span>
        {count !== undefined && <span className="text-sm font-normal text-ink-soft">{count}</span>}
      </button>
    </li>
  );
}

type FolderEntryProps = Omit<EntryProps, "icon" | "name" | "count"> & {
  folder: Folder;
  deep: number;
  count: number;
  actions?: Action[];
};

function FolderEntry({ folder, deep, count, current, onClick, actions }: FolderEntryProps) {
  const drag = useDraggable({ id: `f${folder.id}`, data: { folder }, disabled: !folder.mayEdit });
  const drop = useDroppable({ id: `in${folder.id}`, data: { into: folder }, disabled: !folder.mayEdit });
  const narrow = folder.counts.audience.who === "owner" || folder.counts.audience.who === "some";
  return (
    <li
      ref={(node) => {
        drag.setNodeRef(node);
        drop.setNodeRef(node);
      }}
      style={{ paddingLeft: `${deep * 0.9}rem` }}
      className={`flex items-center ${drop.isOver ? "outline-2 -outline-offset-1 outline-main" : ""} ${drag.isDragging ? "opacity-50" : ""}`}
    >
      <button
        type="button"
        aria-current={current ? "page" : undefined}
        onClick={onClick}
        {...drag.listeners}
        className={`flex min-w-0 flex-1 items-center gap-2 rounded-sm px-2 py-1 text-left ${current ? "bg-main-soft font-semibold text-main" : "hover:bg-main-soft"}`}
      >
        <FolderIcon size={15} aria-hidden className="shrink-0" />
        <span className="min-w-0 flex-1 truncate">{folder.name}</span>
        {narrow && (
          <span title="Not for everybody">
            <Lock size={12} aria-label="not for everybody" />
          </span>
        )}
        <span className="text-sm font-normal text-ink-soft">{count}</span>
      </button>
      {actions ? <Actions label={`Actions for the folder ${folder.name}`} items={actions} /> : <span className="w-7" />}
    </li>
  );
}
