// What the screen computes by itself, tried without a browser.
import { expect, test } from "@playwright/test";
import { listOf, plural, times } from "../../ui/src/components/plural.ts";
import { beside, countOf, depthOf, isIn, pathOf } from "../../ui/src/features/library/folders.ts";
import type { Folder } from "../../ui/src/features/library/useLibrary.ts";
import { same, typed, type Wording } from "../../ui/src/features/library/wording.ts";

test("numbers stand with their nouns", () => {
  expect(plural(0, "letter")).toBe("0 letters");
  expect(plural(1, "letter")).toBe("1 letter");
  expect(plural(12_000, "person", "people")).toBe("12,000 people");
  expect([1, 2, 3].map(times)).toEqual(["once", "twice", "3 times"]);
  expect(listOf(["German", "French", "Spanish"])).toBe("German, French and Spanish");
});

test("folders know what stands in them", () => {
  const make = (id: number, name: string, count: number, parentId?: number) =>
    ({ id, name, count, ...(parentId ? { parentId } : {}) }) as Folder;
  const all = [make(1, "Opening", 2), make(2, "First contact", 3, 1), make(3, "Fair", 4, 2), make(4, "After", 5)];
  const [opening, first, fair, after] = all as [Folder, Folder, Folder, Folder];
  expect(pathOf(all, fair.id)).toBe("Opening / First contact / Fair");
  expect(pathOf(all, undefined)).toBe("");
  expect(pathOf(all, 9)).toBe("");
  expect(all.map((f) => depthOf(all, f))).toEqual([0, 1, 2, 0]);
  expect(isIn(all, fair.id, opening.id)).toBe(true);
  expect(isIn(all, opening.id, fair.id)).toBe(false);
  expect(all.map((f) => countOf(all, f))).toEqual([9, 7, 4, 5]);
  expect(beside(all, opening, 1)).toBe(after);
  expect(beside(all, opening, -1)).toBeUndefined();
  expect(beside(all, first, 1)).toBeUndefined();
});

const doc = (words: string, attrs: object = {}) =>
  ({
    type: "doc",
    attrs: { version: 1, body: "formatted" },
    content: [{ type: "paragraph", attrs, content: [{ type: "text", text: words }] }],
  }) as NonNullable<Wording["doc"]>;

const wording: Wording = {
  name: "A first letter",
  whenToUse: "",
  tags: ["fair"],
  subject: "A room for {{company.name}}",
  subjectDoc: doc("A room"),
  body: "Dear {{person.first_name}}",
  language: "en-GB",
  kind: "plain",
  textOf: "",
  stationery: 0,
  mayNot: [],
  untracked: false,
  documents: [],
};

test("a wording is changed when its words are, and not by how they are written down", () => {
  expect(same(wording, { ...wording })).toBe(true);
  expect(same(wording, { ...wording, body: "Dear {{person.last_name}}" })).toBe(false);
  expect(same(wording, { ...wording, tags: [] })).toBe(false);
  // Of a formatted one the document counts: empty settings and the order of keys do not.
  const formatted = { ...wording, kind: "formatted" as const, doc: doc("Dear Ada") };
  expect(same(formatted, { ...formatted, body: "left over", doc: doc("Dear Ada", { align: "", level: 0 }) })).toBe(
    true,
  );
  const turned = JSON.parse(
    '{"content":[{"content":[{"text":"Dear Ada","type":"text"}],"type":"paragraph"}],"type":"doc"}',
  );
  turned.attrs = { body: "formatted", version: 1 };
  expect(same(formatted, { ...formatted, doc: turned })).toBe(true);
  expect(same(formatted, { ...formatted, doc: doc("Dear Bo") })).toBe(false);
  expect(same(formatted, { ...formatted, doc: doc("Dear Ada", { align: "center" }) })).toBe(false);
  // Whose text part is made by the program does not differ by what it was made of.
  expect(same(wording, { ...wording, textOf: "older" })).toBe(true);
  expect(same({ ...wording, textPart: "x" }, { ...wording, textPart: "x", textOf: "older" })).toBe(false);
});

test("the server is told the words of the kind that is written", () => {
  expect(typed(wording, 7)).toMatchObject({
    subject: wording.subject,
    body: wording.body,
    kind: "plain",
    templateId: 7,
  });
  const formatted = { ...wording, kind: "formatted" as const, doc: doc("Dear Ada") };
  expect(typed(formatted)).toMatchObject({ subject: "", body: "", kind: "formatted", doc: formatted.doc });
  expect(typed(formatted)).not.toHaveProperty("templateId");
});
