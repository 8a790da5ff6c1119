import { expect, signIn, switchTo, test } from "../fixtures.ts";

test("a lead fills what letters take from the team, and renames and orders custom fields", async ({
  page,
  program,
}) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  await page.goto(`${program.url}/fields`);
  const team = page.getByRole("region", { name: "Fernhollow Cold Rooms, North" });
  await team.getByRole("button", { name: /^Next event: / }).click();
  await team.getByLabel("Next event", { exact: true }).fill("O'Neil's open day {spring}");
  await page.keyboard.press("Enter");
  await expect(team.getByRole("button", { name: "Next event: O'Neil's open day {spring}, change" })).toBeFocused();
  // An address of several lines keeps them.
  await team.getByRole("button", { name: /^Postal address: / }).click();
  await team.getByLabel("Postal address", { exact: true }).fill("Fernhollow Cold Rooms\n9 Ice House Lane");
  await page.keyboard.press("Control+Enter");
  await page.reload();
  await expect(team).toContainText("O'Neil's open day {spring}");
  const stored = await (await page.request.get(`${program.url}/api/teams`)).json();
  expect(JSON.stringify(stored)).toContain("Fernhollow Cold Rooms\\n9 Ice House Lane");

  const fields = page.getByRole("list", { name: "Custom fields" });
  await fields.getByRole("button", { name: "Actions for Present cooling" }).click();
  await page.getByRole("menuitem", { name: "Rename or change choices" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByLabel("Name").fill("Cooling now");
  await page.keyboard.press("Control+Enter");
  await expect(fields.getByRole("listitem").nth(1)).toContainText("Cooling now");
  await fields.getByRole("button", { name: "Actions for Cooling now" }).click();
  await page.getByRole("menuitem", { name: "Move up" }).click();
  await expect(fields.getByRole("listitem").first()).toContainText("Cooling now");

  await switchTo(page, program.url, "imre@fernhollow.example");
  await page.goto(`${program.url}/fields`);
  await expect(team).toContainText("O'Neil's open day");
  await expect(team.getByRole("button")).toHaveCount(0);
});

test("values of a deal are changed in their place, as people write them", async ({ desk, program }) => {
  const { deals } = await (await desk.request.get(`${program.url}/api/deals`)).json();
  const id = (deals.deals ?? deals)[0].id;
  await desk.goto(`${program.url}/deals/${id}`);
  await desk.getByRole("button", { name: /^Amount: / }).click();
  await desk.getByLabel("Amount", { exact: true }).fill("a lot");
  await desk.keyboard.press("Enter");
  await expect(desk.getByText(/Amount: .*"a lot"/)).toBeVisible();
  await desk.getByLabel("Amount", { exact: true }).fill("€20,500");
  await desk.keyboard.press("Enter");
  await expect(desk.getByRole("button", { name: "Amount: €20,500.00, change" })).toBeFocused();
  await expect(desk.getByRole("region", { name: "History" })).toContainText("€20,500.00");
});
