import type { Folder } from "./useLibrary";

/** How deep a folder stands in others. */
export function depthOf(folders: Folder[], f: Folder): number {
  const parent = folders.find((g) => g.id === f.parentId);
  return parent ? depthOf(folders, parent) + 1 : 0;
}

/** Whether a folder is another one or stands in it. */
export function isIn(folders: Folder[], id: number, outer: number): boolean {
  if (id === outer) return true;
  const parent = folders.find((g) => g.id === id)?.parentId;
  return parent !== undefined && isIn(folders, parent, outer);
}

/** How many stand in a folder and in those inside. */
export function countOf(folders: Folder[], f: Folder): number {
  return folders.filter((g) => isIn(folders, g.id, f.id)).reduce((n, g) => n + g.count, 0);
}

/** The way to a folder, such as "Opening / First contact". */
export function pathOf(folders: Folder[], id: number | undefined): string {
  const f = folders.find((g) => g.id === id);
  if (!f) return "";
  const outer = pathOf(folders, f.parentId);
  return outer ? `${outer} / ${f.name}` : f.name;
}

/** The folder that stands before (-1) or behind (1) another one of its parent. */
export function beside(folders: Folder[], f: Folder, by: -1 | 1): Folder | undefined {
  const level = folders.filter((g) => g.parentId === f.parentId);
  return level[level.findIndex((g) => g.id === f.id) + by];
}
