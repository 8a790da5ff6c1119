import { keepPreviousData, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { useSearchParams } from "react-router";
import { toast } from "sonner";
import { $api, noAnswer, type Schemas, wordsOf } from "../../api/client";

export type Line = Schemas["LibraryLine"];
export type Folder = Schemas["FolderSheet"];
export type View = "all" | "recent" | "mine" | "starred" | "outside" | "folder";
export type Sort = "" | "name" | "last" | "used" | "changed" | "order";
export type State = "" | Line["state"];
export type Kind = "" | "lead" | "contact" | "deal";

/** What the library shows, as it stands in the address of the screen. */
export function useChosen() {
  const [params, setParams] = useSearchParams();
  const folder = Number(params.get("folder")) || 0;
  const view = (folder > 0 ? "folder" : (params.get("view") ?? "all")) as View;
  const set = (changes: Record<string, string>, fresh = false) => {
    const next = new URLSearchParams(fresh ? {} : params);
    for (const [key, value] of Object.entries(changes)) {
      if (value) next.set(key, value);
      else next.delete(key);
    }
    setParams(next, { replace: !fresh });
  };
  return {
    folder,
    view,
    q: params.get("q") ?? "",
    state: (params.get("state") ?? "") as State,
    kind: (params.get("kind") ?? "") as Kind,
    tag: params.get("tag") ?? "",
    sort: (params.get("sort") ?? "") as Sort,
    set,
  };
}

export type Chosen = ReturnType<typeof useChosen>;

export function useTemplates(c: Chosen, limit: number) {
  // A folder is in its own order, unless something is looked for.
  const sort = c.sort || (c.view === "folder" && !c.q ? "order" : "");
  return $api.useQuery(
    "get",
    "/api/templates",
    {
      params: {
        query: {
          q: c.q,
          state: c.state,
          kind: c.kind,
          tag: c.tag,
          sort,
          down: sort === "last" || sort === "used" || sort === "changed",
          folder: c.view === "outside" ? -1 : c.folder,
          mine: c.view === "mine",
          starred: c.view === "starred",
          recent: c.view === "recent",
          limit,
        },
      },
    },
    { placeholderData: keepPreviousData },
  );
}

/** Runs a change of the library: says what went wrong, and shows what is there then. */
export function useChange() {
  const queries = useQueryClient();
  return useCallback(
    async (change: Promise<{ error?: unknown }>, done?: string, undo?: () => void): Promise<boolean> => {
      const { error } = await change.catch(noAnswer);
      for (const path of ["/api/templates", "/api/folders", "/api/passages"] as const)
        queries.invalidateQueries({ queryKey: ["get", path] });
      if (error) {
        toast.error(wordsOf(error));
        return false;
      }
      if (done) toast.success(done, undo ? { action: { label: "Undo", onClick: undo } } : {});
      return true;
    },
    [queries],
  );
}
