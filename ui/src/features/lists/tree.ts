import type { Schemas } from "../../api/client";

export type Expr = Schemas["Expr"];
export type FilterField = Schemas["Field"];

/** A filter as it is put together on the screen: groups of conditions, some of which may not be finished yet. */
export type Group = { kind: "group"; mode: Mode; items: Node[] };
export type Condition = { kind: "test"; field: string; op: string; value: string };
export type Node = Group | Condition;
export type Mode = "all" | "any" | "none";

export const emptyTest: Condition = { kind: "test", field: "", op: "", value: "" };
export const emptyGroup: Group = { kind: "group", mode: "all", items: [] };

/** Comparisons that need nothing to compare with. */
const alone = ["is filled", "is missing", "yes", "no"];
export const needsValue = (op: string) => op !== "" && !alone.includes(op);

/** Whether a condition says something already. */
const finished = (t: Condition) => t.field !== "" && t.op !== "" && (!needsValue(t.op) || t.value.trim() !== "");

/** The tree that the server takes, without what is not finished; undefined when nothing is. */
export function toExpr(n: Node): Expr | undefined {
  if (n.kind === "test") {
    if (!finished(n)) return undefined;
    const { field, op, value } = n;
    return { test: { field, op, ...(needsValue(op) && { value: value.trim() }) } };
  }
  const list = n.items.map(toExpr).filter((e) => e !== undefined);
  const [first] = list;
  if (!first) return undefined;
  if (n.mode === "none") return { not: list.length > 1 ? { any: list } : first };
  return list.length > 1 ? { [n.mode]: list } : first;
}

/** The same tree to be put together further. */
export function toGroup(e: Expr): Group {
  const n = toNode(e);
  return n.kind === "group" ? n : { ...emptyGroup, items: [n] };
}

function toNode(e: Expr): Node {
  if (e.test) return { kind: "test", field: e.test.field, op: e.test.op, value: e.test.value ?? "" };
  if (e.all) return { kind: "group", mode: "all", items: e.all.map(toNode) };
  if (e.any) return { kind: "group", mode: "any", items: e.any.map(toNode) };
  if (e.not?.any) return { kind: "group", mode: "none", items: e.not.any.map(toNode) };
  if (e.not) return { kind: "group", mode: "none", items: [toNode(e.not)] };
  return emptyGroup;
}

/** How comparisons are read. */
export const opWords: Record<string, string> = {
  is: "is",
  "is not": "is not",
  has: "contains",
  "has not": "doesn’t contain",
  starts: "begins with",
  "is filled": "is filled",
  "is missing": "is missing",
  "more than": "is more than",
  "less than": "is less than",
  before: "is before",
  after: "is after",
  "in last": "within the last",
  "not in last": "not within the last",
  "in next": "within the next",
  yes: "yes",
  no: "no",
};

/** Of what happened, filled and missing are read otherwise. */
const momentWords: Record<string, string> = { ...opWords, "is filled": "at any time", "is missing": "never" };

export const wordsOfOp = (op: string, kind: string) => (kind === "moment" ? momentWords : opWords)[op] ?? op;

/** A filter as a sentence. */
export function sentence(e: Expr, fields: FilterField[], users: { id: number; name: string }[], inner = false): string {
  const join = (list: Expr[], word: string) => {
    const text = list.map((x) => sentence(x, fields, users, list.length > 1)).join(` ${word} `);
    return inner && list.length > 1 ? `(${text})` : text;
  };
  if (e.all) return join(e.all, "and");
  if (e.any) return join(e.any, "or");
  if (e.not) return `not ${sentence(e.not, fields, users, true)}`;
  if (!e.test) return "everybody";
  const { field, op, value = "" } = e.test;
  const f = fields.find((x) => x.path === field);
  const name = f?.label ?? field;
  const said = wordsOfOp(op, f?.kind ?? "");
  if (!needsValue(op)) return `${name}: ${said}`;
  if (op.endsWith("last") || op.endsWith("next"))
    return `${name} ${said} ${value === "0" ? "day, today" : value === "1" ? "day" : `${value} days`}`;
  if (f?.kind === "owner")
    return `${name} ${said} ${value === "me" ? "me" : (users.find((u) => `${u.id}` === value)?.name ?? value)}`;
  return `${name} ${said} “${value}”`;
}
