import { expect, test } from "../fixtures.ts";

test("find people, templates and screens from anywhere", async ({ desk, program }) => {
  await desk.goto(`${program.url}/outbox`);
  await desk.getByRole("heading", { name: "Outbox" }).waitFor();
  await desk.keyboard.press("Control+k");
  const box = desk.getByRole("dialog", { name: "Find" }).getByRole("combobox");
  await box.fill("missed call");
  await expect(desk.getByRole("option", { name: /Missed call/ })).toBeVisible();
  await desk.keyboard.press("Enter");
  await expect(desk.getByLabel(/^Name/)).toHaveValue("Missed call");
  await desk.keyboard.press("Control+k");
  await desk.getByRole("dialog", { name: "Find" }).getByRole("combobox").fill("drafts");
  await desk.getByRole("option", { name: /^Drafts/ }).click();
  await expect(desk).toHaveURL(/outbox\?view=drafts/);
  await desk.keyboard.press("Control+k");
  await desk.getByRole("dialog", { name: "Find" }).getByRole("combobox").fill("qqqqqq");
  await expect(desk.getByText("Nothing fits “qqqqqq”.")).toBeVisible();
  await desk.keyboard.press("Escape");
  await expect(desk.getByRole("dialog")).toBeHidden();
});

test("write from anywhere: first the person, then the template", async ({ desk, program }) => {
  await desk.goto(`${program.url}/templates`);
  await desk.getByRole("heading", { name: "Templates" }).waitFor();
  await desk.keyboard.press("w");
  await desk.getByRole("combobox", { name: "Write to whom?" }).fill("flowers");
  await expect(desk.getByRole("dialog").getByRole("option").first()).toContainText("Flowers");
  await desk.keyboard.press("Enter");
  await expect(
    desk.getByRole("dialog", { name: /^Write to / }).getByRole("combobox", { name: "Search templates" }),
  ).toBeFocused();
  await desk.keyboard.press("Escape");
});

test("a fact is changed in its place, and a wrong value is refused with the reason", async ({ desk, program }) => {
  await desk.goto(`${program.url}/people?kind=lead&q=bakery`);
  await desk.getByRole("table", { name: "People" }).getByRole("link").first().click();
  await desk.getByRole("button", { name: /^City: / }).click();
  await desk.getByRole("textbox", { name: "City" }).fill("Upper Fenby");
  await desk.keyboard.press("Enter");
  await expect(desk.getByRole("button", { name: "City: Upper Fenby, change" })).toBeVisible();
  await expect(desk.getByRole("region", { name: "History" })).toContainText("City: Upper Fenby");
  await desk.getByRole("button", { name: /^Email: / }).click();
  await desk.getByRole("textbox", { name: "Email" }).fill("a@b@c");
  await desk.keyboard.press("Enter");
  await expect(desk.getByText('Email: "a@b@c" is not an email address')).toBeVisible();
  await desk.getByRole("textbox", { name: "Email" }).press("Escape");
  await desk.getByRole("button", { name: /^Lead status: / }).click();
  await desk.getByRole("combobox", { name: "Lead status" }).selectOption("parked");
  await expect(desk.getByRole("button", { name: "Lead status: parked, change" })).toBeVisible();
});

test("the people table keeps its search, kind and order in the address, and is moved through by key", async ({
  desk,
  program,
}) => {
  await desk.goto(`${program.url}/people`);
  const table = desk.getByRole("table", { name: "People" });
  await table.getByRole("button", { name: "Company" }).click();
  await expect(desk).toHaveURL(/sort=company/);
  await expect(table.getByRole("columnheader", { name: /Company/ })).toHaveAttribute("aria-sort", "ascending");
  await desk.getByText("Contacts", { exact: true }).click();
  await expect(desk.getByText(/^1\d\d people$/)).toBeVisible();
  await desk.getByRole("searchbox", { name: "Search people" }).fill("zzzz");
  await expect(desk.getByText("Nobody matches your search.")).toBeVisible();
  await desk.getByRole("button", { name: "Show everybody" }).click();
  await expect(desk.getByText(/^4\d\d people$/)).toBeVisible();
  await desk.getByRole("heading", { name: "People" }).click();
  await desk.keyboard.press("j");
  await desk.keyboard.press("j");
  await expect(table.locator('[aria-selected="true"]')).toHaveAttribute("aria-rowindex", "3");
  await desk.keyboard.press("Enter");
  await expect(desk).toHaveURL(/people\/\d+$/);
  await desk.goBack();
  await expect(desk).toHaveURL(/sort=company/);
});

test("the theme is remembered, the keys are listed", async ({ desk, program }) => {
  await desk.goto(`${program.url}/people`);
  await desk.getByRole("button", { name: /^Account of/ }).click();
  await desk.getByRole("menuitem", { name: "Dark theme" }).click();
  await desk.reload();
  await expect(desk.locator("html")).toHaveAttribute("data-theme", "dark");
  await desk.getByRole("heading", { name: "People" }).waitFor();
  await desk.keyboard.press("?");
  await expect(desk.getByRole("dialog", { name: "Keyboard shortcuts" })).toContainText("Write a letter");
});

test("the post office is searched by address", async ({ desk, program }) => {
  await desk.goto(`${program.url}/post-office`);
  await desk.getByRole("searchbox", { name: "Search mailboxes" }).fill("no-such-mailbox");
  await expect(desk.getByText("No mailbox matches.")).toBeVisible();
  await desk.getByRole("searchbox", { name: "Search mailboxes" }).fill("bakery");
  const box = desk.getByRole("navigation", { name: "Mailboxes" }).getByRole("link").first();
  await expect(box).toContainText("bakery");
  await box.click();
  await expect(desk.getByRole("article", { name: /^Received: / })).toBeVisible();
});
