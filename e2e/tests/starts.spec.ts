import { expect, reachable, test } from "../fixtures.ts";

test("a letter begins from a row of the list, by key and by its pen", async ({ desk, program }) => {
  await desk.goto(`${program.url}/people?kind=contact`);
  const rows = desk.getByRole("table", { name: "People" }).getByRole("row");
  await expect(rows.nth(3)).toBeVisible();
  await desk.keyboard.press("j");
  await desk.keyboard.press("j");
  const name = (await rows.nth(3).getByRole("link").textContent()) ?? "";
  await desk.keyboard.press("w");
  await expect(desk.getByRole("heading", { name: `Write to ${name}` })).toBeVisible();
  await desk.keyboard.press("Escape");
  const other = (await rows.nth(5).getByRole("link").textContent()) ?? "";
  await rows
    .nth(5)
    .getByRole("button", { name: `Write to ${other}` })
    .click();
  await expect(desk.getByRole("heading", { name: `Write to ${other}` })).toBeVisible();
});

test("a letter begins with a template: write with this, to somebody whom it fits", async ({ desk, program }) => {
  await desk.goto(`${program.url}/templates?q=florist`);
  await desk.getByRole("link", { name: "First letter to a florist" }).click();
  await desk.getByRole("button", { name: "Use this template" }).click();
  const find = desk.getByRole("combobox", { name: "Write to whom?" });
  await find.fill("bakery");
  await expect(desk.getByRole("dialog").getByRole("option").first()).toBeVisible();
  await desk.keyboard.press("Enter");
  await expect(desk.getByRole("textbox", { name: "Subject" })).toContainText("Flowers that keep until Saturday");
  await desk.getByRole("button", { name: "Discard draft" }).click();
  // From the list of templates, by key.
  await desk.goto(`${program.url}/templates?q=florist`);
  await desk.getByRole("link", { name: "First letter to a florist" }).focus();
  await desk.keyboard.press("w");
  await find.fill("somebody.new@nowhere.example");
  await expect(desk.getByRole("option", { name: /Add this address as a lead/ })).toBeVisible();
  await desk.keyboard.press("Enter");
  await expect(desk.getByRole("textbox", { name: "Subject" })).toContainText("Flowers that keep");
  await expect(desk.getByRole("button", { name: /^Missing: First name/ })).toBeDisabled();
});

test("a letter begins from an address on the screen, and from anywhere by an address that is known", async ({
  desk,
  program,
}) => {
  const [one] = await reachable(desk, program.url, "contact");
  const asked = desk.getByRole("heading", { name: new RegExp(`^Write to ${one.firstName}`) });
  await desk.goto(`${program.url}/people/${one.id}`);
  await desk.getByRole("button", { name: `write to ${one.email}` }).click();
  await expect(asked).toBeVisible();
  await desk.goto(`${program.url}/outbox`);
  await desk.getByRole("heading", { level: 1 }).waitFor();
  await desk.keyboard.press("w");
  await desk.getByRole("combobox", { name: "Write to whom?" }).fill(one.email);
  await expect(desk.getByRole("option", { name: new RegExp(one.email) })).toBeVisible();
  await desk.keyboard.press("Enter");
  await expect(asked).toBeVisible();
});

test("a letter begins from a deal, to anybody of it, about just this one", async ({ desk, program }) => {
  await desk.goto(`${program.url}/deals`);
  await desk.getByRole("table", { name: "Deals" }).waitFor();
  await desk.keyboard.press("/");
  await desk.keyboard.type("quoted catering");
  await desk.keyboard.press("Enter");
  await desk.getByRole("button", { name: "Write to colleagues" }).waitFor();
  const deal = (await desk.getByRole("heading", { level: 1 }).textContent()) ?? "";
  await desk.getByRole("list", { name: "People of the deal" }).getByRole("button").first().click();
  await desk.getByRole("combobox", { name: "Search templates" }).fill("quote delivered");
  await expect(desk.getByRole("region", { name: "Preview" })).toContainText(deal);
  await desk.keyboard.press("Enter");
  await expect(desk.getByRole("region", { name: "Dispatch" })).toContainText(`about ${deal}`);
});
