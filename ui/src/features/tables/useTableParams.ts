import { useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";

/** What a table is of. */
export type Of = "person" | "company" | "deal";
export type Column = Schemas["TableColumn"];

const key = (of: Of) => `columns of ${of}`;

function remembered(of: Of): string {
  try {
    return localStorage.getItem(key(of)) ?? "";
  } catch {
    return "";
  }
}

function remember(of: Of, columns: string) {
  try {
    if (columns) localStorage.setItem(key(of), columns);
    else localStorage.removeItem(key(of));
  } catch {
    // They stand in the address all the same.
  }
}

/** The text form of columns, as the server reads it. */
export const textOf = (columns: Column[]) => columns.map((c) => (c.width ? `${c.path}:${c.width}` : c.path)).join(",");

/** How a table is shown, as it stands in the address of the screen. Columns that it does not
 * name are those that were chosen last. */
export function useTableParams(of: Of, onChange: () => void) {
  const [params, setParams] = useSearchParams();
  const set = (changes: Record<string, string>) => {
    // Of the address as it is now: what was set a moment ago is not on the screen yet.
    const next = new URLSearchParams(window.location.search);
    for (const [name, value] of Object.entries(changes)) {
      if (value) next.set(name, value);
      else next.delete(name);
    }
    setParams(next, { replace: true });
    onChange();
  };
  return {
    of,
    params,
    q: params.get("q") ?? "",
    sort: params.get("sort") ?? "",
    down: params.get("down") === "true",
    columns: params.get("columns") ?? remembered(of),
    set,
    /** Shows other columns, also the next time; none are the usual ones. */
    choose: (columns: Column[]) => {
      remember(of, textOf(columns));
      set({ columns: textOf(columns) });
    },
  };
}

export type TableParams = ReturnType<typeof useTableParams>;
