import type { DragEndEvent } from "@dnd-kit/core";
import { useNavigate } from "react-router";
import { api } from "../../api/client";
import { useWriting } from "../../app/writing";
import type { Action } from "../../components/Actions";
import { type Folder, type Line, useChange } from "../library/useLibrary";

export type Asked = { what: "move" | "rights" | "delete"; line: Line };

type Props = {
  list: Line[];
  /** They stand in the order that people gave them. */
  ordered: boolean;
  onAsk: (asked: Asked) => void;
  /** The template that was moved stands here now. */
  onMoved: (at: number) => void;
};

/** What can be done with a template of the library, from its menu, by keys, and by dragging it. */
export function useLibraryActs({ list, ordered, onAsk, onMoved }: Props) {
  const go = useNavigate();
  const change = useChange();
  const write = useWriting();
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
    void place(t, t.folderId, by < 0 ? next.id : (list[i + 2]?.id ?? 0)).then((ok) => ok && onMoved(i + by));
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
  const actions = (t: Line): Action[] => [
    ["Open", () => go(`/templates/${t.id}`)],
    ...(t.state === "ready" ? [["Use this template", () => write({ templateId: t.id })] as Action] : []),
    ["Duplicate", () => void copy(t)],
    ["My own copy that follows it", () => void copy(t, true)],
    ...(t.mayEdit
      ? ([
          ["Move to a folder", () => onAsk({ what: "move", line: t })],
          ...(ordered
            ? ([
                ["Move up", () => step(t, -1)],
                ["Move down", () => step(t, 1)],
              ] as Action[])
            : []),
          ["Who can use it", () => onAsk({ what: "rights", line: t })],
          null,
          ["Delete", () => onAsk({ what: "delete", line: t })],
        ] as Action[])
      : []),
  ];
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
  return { place, star, actions, dropped };
}
