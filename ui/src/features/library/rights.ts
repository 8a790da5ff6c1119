import type { Schemas } from "../../api/client";

export type Rights = Schemas["Rights"];
type Audience = Schemas["Audience"];

const roleNames: Record<string, string> = {
  representative: "sales representatives",
  lead: "team leads",
  administrator: "administrators",
};

/** Says in words who is in an audience. */
export function audienceWords(a: Audience, all: Schemas["Colleagues"]): string {
  if (a.who === "" || a.who === "everybody") return "everybody";
  if (a.who === "owner") return "only the owner";
  const names = [
    ...(a.teams ?? []).map((id) => all.teams.find((t) => t.id === id)?.name ?? "a team"),
    ...(a.roles ?? []).map((r) => roleNames[r] ?? r),
    ...(a.users ?? []).map((id) => all.users.find((u) => u.id === id)?.name ?? "somebody"),
  ];
  if (names.length === 0) return "Choose at least one person, team or role.";
  return names.length === 1 ? (names[0] ?? "") : `${names.slice(0, -1).join(", ")} and ${names.at(-1)}`;
}
