import { readFile } from "node:fs/promises";
import type { Page } from "@playwright/test";
import ICAL from "ical.js";
import { sentence, toExpr, toGroup } from "../../ui/src/features/lists/tree.ts";
import { expect, switchTo, test } from "../fixtures.ts";

/** How many people a filter finds, as the server counts them. */
async function count(desk: Page, url: string, where: string): Promise<number> {
  const answer = await desk.request.get(`${url}/api/people/count?where=${encodeURIComponent(where)}`);
  return (await answer.json()).count;
}

test("a list is built by keyboard alone, saved, shared, and opened by somebody else", async ({ desk, program }) => {
  await desk.goto(`${program.url}/people`);
  const keys = desk.keyboard;
  await desk.getByRole("button", { name: "Filter", exact: true }).focus();
  await keys.press("Enter");
  const filter = desk.getByRole("region", { name: "Filter" });
  await filter.getByRole("combobox", { name: "Field" }).focus();
  await keys.type("City"); // a list of the browser's own goes to what is typed
  await keys.press("Tab");
  await keys.press("Tab");
  await expect(filter.getByRole("textbox", { name: "Value" })).toBeFocused();
  await keys.type("Harrowmere");
  const status = desk.getByRole("status").filter({ hasText: /people|person/ });
  const inTown = await count(desk, program.url, 'person.city is "Harrowmere"');
  expect(inTown).toBeGreaterThan(1);
  await expect(status).toHaveText(`${inTown} people`);
  await expect(desk).toHaveURL(/where=person.city/);

  await filter.getByRole("button", { name: "Condition", exact: true }).focus();
  await keys.press("Enter");
  await filter.getByRole("combobox", { name: "Field" }).nth(1).focus();
  await keys.type("Owner");
  await keys.press("Tab");
  await keys.press("Tab");
  await keys.type("me");
  const mine = await count(desk, program.url, 'person.city is "Harrowmere" and owner is me');
  await expect(status).toHaveText(new RegExp(`^${mine} `));
  await expect(desk.getByText("City is “Harrowmere” and Owner is me")).toBeVisible();

  await desk.getByRole("button", { name: "Save as a list" }).focus();
  await keys.press("Enter");
  const save = desk.getByRole("dialog", { name: "Save as a list" });
  await save.getByLabel("Name").focus();
  await keys.type("Mine in Harrowmere");
  await keys.press("Tab");
  await keys.press("Space");
  await keys.press("Control+Enter");
  await expect(save).toBeHidden();
  const lists = desk.getByRole("navigation", { name: "Lists" });
  await expect(lists.getByRole("button", { name: `Mine in Harrowmere ${mine}` })).toHaveAttribute(
    "aria-current",
    "true",
  );

  // Whoever looks at it is "me".
  await switchTo(desk, program.url, "celia@fernhollow.example");
  await desk.goto(`${program.url}/people`);
  const hers = await count(desk, program.url, 'person.city is "Harrowmere" and owner is me');
  await lists.getByRole("button", { name: `Mine in Harrowmere ${hers}` }).click();
  await expect(desk).toHaveURL(/where=/);
  await lists.getByRole("button", { name: "More about the list Mine in Harrowmere" }).click();
  await expect(desk.getByRole("menuitem")).toHaveText(["Start a round"]); // it is another's
  await desk.keyboard.press("Escape");
  await desk.reload();
  await expect(desk.getByText("City is “Harrowmere” and Owner is me")).toBeVisible();
});

test("a filter that cannot be read says why and can be mended; nobody is shown instead of everybody", async ({
  desk,
  program,
}) => {
  await desk.goto(`${program.url}/people?where=${encodeURIComponent("person.shoe is 41")}`);
  await expect(desk.getByText(/there is no field person.shoe/)).toBeVisible();
  await expect(desk.getByRole("table", { name: "People" }).getByRole("link")).toHaveCount(0);
  await desk.getByRole("button", { name: "Clear the filter" }).click();
  await expect(desk.getByRole("table", { name: "People" }).getByRole("link").first()).toBeVisible();
});

test("a filter is the same tree before and after it was put together on the screen", () => {
  const test_ = (field: string, op: string, value?: string) => ({ test: { field, op, ...(value && { value }) } });
  const all = [
    test_("kind", "is", "lead"),
    { all: [test_("kind", "is", "lead"), { any: [test_("bad", "yes"), test_("opened", "is missing")] }] },
    { not: { any: [test_("bad", "yes"), test_("bad", "no")] } },
    { not: test_("bad", "yes") },
    { any: [{ not: test_("bad", "yes") }, test_("written", "in last", "3")] },
  ];
  for (const tree of all) expect(toExpr(toGroup(tree))).toEqual(tree);
  // What is not finished is left out.
  const open = { kind: "test" as const, field: "person.city", op: "is", value: " " };
  expect(toExpr({ kind: "group", mode: "all", items: [open, { ...open, value: "York " }] })).toEqual(
    test_("person.city", "is", "York"),
  );
  expect(toExpr({ kind: "group", mode: "none", items: [open] })).toBeUndefined();
  const fields = [{ path: "written", label: "Written to", kind: "moment" as const, ops: [], choices: [] }];
  expect(
    sentence({ not: { any: [test_("written", "is missing"), test_("written", "in last", "1")] } }, fields, []),
  ).toBe("not (Written to: never or Written to within the last day)");
});

test("people are selected by range, changed at once, taken back, and exported as files that others read", async ({
  desk,
  program,
}) => {
  const where = 'kind is lead and person.city is "Harrowmere"';
  await desk.goto(`${program.url}/people?where=${encodeURIComponent(where)}`);
  const boxes = desk.getByRole("table", { name: "People" }).getByRole("checkbox");
  await boxes.nth(0).click();
  await boxes.nth(3).click({ modifiers: ["Shift"] });
  const strip = desk.getByRole("region", { name: "Selected people" });
  await expect(strip).toContainText("4 people selected");
  await boxes.nth(1).click();
  await expect(strip).toContainText("3 people selected");
  await strip.getByRole("button", { name: "Change a field" }).click();
  const change = desk.getByRole("dialog", { name: "Change a field of 3 people" });
  await change.getByLabel("Field").selectOption({ label: "Lead status" });
  await change.getByLabel("New value").selectOption("parked");
  await change.getByRole("button", { name: "Change it" }).click();
  await expect(desk.getByText(/\d (person|people) changed/)).toBeVisible();
  const parked = `${where} and lead.status is parked`;
  const after = await count(desk, program.url, parked);
  await desk.getByRole("button", { name: "Undo" }).click();
  await expect(desk.getByText("As it was before.")).toBeVisible();
  expect(await count(desk, program.url, parked)).toBeLessThan(after);

  const total = await count(desk, program.url, where);
  const coming = desk.waitForEvent("download");
  await desk.getByRole("button", { name: "Export these people" }).click();
  await desk.getByRole("menuitem", { name: "Save as vCard" }).click();
  const text = await readFile(await (await coming).path(), "utf8");
  const cards = text.split(/(?=BEGIN:VCARD)/); // ical.js reads one at a time (RFC 6350)
  expect(cards).toHaveLength(total);
  for (const card of cards) {
    const c = new ICAL.Component(ICAL.parse(card));
    expect(c.getFirstPropertyValue("version")).toBe("4.0");
    expect(c.getFirstPropertyValue("fn")).toBeTruthy();
    expect((c.getFirstPropertyValue("adr") as unknown as string[])[3]).toBe("Harrowmere");
  }
  // What was exported comes back as the same people.
  const csv = desk.waitForEvent("download");
  await desk.getByRole("button", { name: "Export these people" }).click();
  await desk.getByRole("menuitem", { name: "Save as CSV" }).click();
  const file = await readFile(await (await csv).path());
  const back = await desk.request.post(`${program.url}/api/imports?check=true`, {
    multipart: { file: { name: "people.csv", mimeType: "text/csv", buffer: file } },
  });
  const report = await back.json();
  expect(report).toMatchObject({ rows: total, created: 0, refused: 0 });
});

test("people are picked with the keys: one, and all from there", async ({ desk, program }) => {
  await desk.goto(`${program.url}/people`);
  await expect(desk.getByRole("table", { name: "People" }).getByRole("link").first()).toBeVisible();
  const picked = desk.getByRole("region", { name: "Selected people" });
  await desk.keyboard.press("j");
  await desk.keyboard.press("x");
  await expect(picked).toContainText("1 person selected");
  await desk.keyboard.press("j");
  await desk.keyboard.press("j");
  await desk.keyboard.press("Shift+X");
  await expect(picked).toContainText("3 people selected");
  await desk.keyboard.press("x");
  await expect(picked).toContainText("2 people selected");
  // With the focus on a box the keys go on from there.
  await desk
    .getByRole("checkbox", { name: /^Select/ })
    .nth(5)
    .click();
  await desk.keyboard.press("/");
  await expect(desk.getByRole("searchbox", { name: "Search people" })).toBeFocused();
});

test("columns are chosen, ordered, sized and sorted by; a list keeps them for others", async ({ desk, program }) => {
  await desk.goto(`${program.url}/people`);
  const table = desk.getByRole("table", { name: "People" });
  const headings = () => table.getByRole("columnheader").allInnerTexts();
  await expect(table.getByRole("columnheader", { name: "Job title" })).toBeVisible();
  await desk.getByRole("button", { name: "Columns" }).click();
  const choice = desk.getByRole("dialog", { name: "Columns" });
  await choice.getByLabel("Add a column").selectOption({ label: "City" });
  await choice.getByLabel("Add a column").selectOption({ label: "Owner" });
  for (const gone of ["Last letter", "Status", "Job title", "Sent"])
    await choice.getByRole("button", { name: `Remove ${gone}` }).click();
  // With the keys a column goes up, and the focus with it.
  await choice.getByRole("button", { name: "Move Owner up" }).focus();
  await desk.keyboard.press("Enter");
  await expect(choice.getByRole("button", { name: "Move Owner up" })).toBeFocused();
  await desk.keyboard.press("Enter");
  await choice.getByRole("button", { name: "Done" }).click();
  expect((await headings()).slice(1, 5).map((h) => h.replace(/ [↑↓]/, ""))).toEqual([
    "Name",
    "Owner",
    "Company",
    "City",
  ]);

  // Sorted by any of them, those without a value last both ways.
  const cities = async () =>
    (
      await table
        .getByRole("row")
        .evaluateAll((rows) => rows.map((r) => r.querySelectorAll("[role=cell]")[4]?.textContent ?? ""))
    ).filter(Boolean);
  await table.getByRole("button", { name: "City" }).click();
  await expect(table.getByRole("columnheader", { name: "City" })).toHaveAttribute("aria-sort", "ascending");
  const compare = (a: string, b: string) => a.toLowerCase().localeCompare(b.toLowerCase(), "en");
  await expect(async () => expect(await cities()).toEqual([...(await cities())].sort(compare))).toPass();
  await table.getByRole("button", { name: "City" }).click();
  await expect(table.getByRole("columnheader", { name: "City" })).toHaveAttribute("aria-sort", "descending");
  await expect(async () => expect(await cities()).toEqual([...(await cities())].sort(compare).reverse())).toPass();
  await expect(desk).toHaveURL(/sort=person.city&down=true/);

  // A width by the keys, by the mouse, and given up by a double-click.
  const edge = table.getByRole("separator", { name: "Width of Company" });
  const before = (await table.getByRole("columnheader", { name: "Company" }).boundingBox())?.width ?? 0;
  await edge.focus();
  await desk.keyboard.press("ArrowLeft");
  await expect(edge).toHaveAttribute("aria-valuenow", String(Math.round(before) - 16));
  await edge.hover();
  await desk.mouse.down();
  await desk.mouse.move(((await edge.boundingBox())?.x ?? 0) + 60, 120);
  await desk.mouse.up();
  await expect(desk).toHaveURL(/company.name%3A\d+/);
  await desk.reload();
  await expect(edge).not.toHaveAttribute("aria-valuenow", "0");
  await edge.dblclick();
  await expect(edge).toHaveAttribute("aria-valuenow", "0");

  // The next time they are there again, without the address; a saved list has its own.
  await desk.goto(`${program.url}/people`);
  await expect(table.getByRole("columnheader", { name: "Owner" })).toBeVisible();
  const where = encodeURIComponent('person.city is "Harrowmere"');
  await desk.goto(`${program.url}/people?sort=owner&where=${where}`);
  await desk.getByRole("button", { name: "Save as a list" }).click();
  const save = desk.getByRole("dialog", { name: "Save as a list" });
  await save.getByLabel("Name").fill("By owner");
  await save.getByLabel("Everybody sees this list").check();
  await save.getByRole("button", { name: "Save the list" }).click();
  await desk.evaluate(() => localStorage.clear());
  await switchTo(desk, program.url, "celia@fernhollow.example");
  await desk.goto(`${program.url}/people`);
  await expect(table.getByRole("columnheader", { name: "Job title" })).toBeVisible();
  await desk
    .getByRole("navigation", { name: "Lists" })
    .getByRole("button", { name: /^By owner/ })
    .click();
  await expect(table.getByRole("columnheader", { name: "Owner" })).toHaveAttribute("aria-sort", "ascending");
  await expect(table.getByRole("columnheader", { name: "Job title" })).toHaveCount(0);
  for (const [path, name] of [
    ["/companies", "Companies"],
    ["/deals", "Deals"],
  ] as const) {
    await desk.goto(program.url + path);
    const other = desk.getByRole("table", { name });
    await desk.getByRole("button", { name: "Columns" }).click();
    await desk.getByLabel("Add a column").selectOption({ label: "Added" });
    await desk.getByRole("button", { name: "Done" }).click();
    await other.getByRole("button", { name: "Added" }).click();
    await expect(other.getByRole("columnheader", { name: "Added" })).toHaveAttribute("aria-sort", "ascending");
  }
});
