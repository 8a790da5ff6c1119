import { expect, reachable, signIn, switchTo, test } from "../fixtures.ts";

test("a recipient opts out by one press, nobody can write to them, and a lead lets it be again", async ({
  page,
  program,
  browser,
}) => {
  await signIn(page, program.url, "tamas@fernhollow.example");
  const [, one] = await reachable(page, program.url, "contact");
  await page.goto(`${program.url}/people/${one.id}`);
  await page.getByRole("heading", { level: 1 }).waitFor();
  await page.keyboard.press("w");
  await page.getByRole("combobox", { name: "Search templates" }).fill("first letter to a florist");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: /^Send to / }).click();
  await expect(page.getByText("Filed as it was sent")).toBeVisible();
  const list = await (await page.request.get(`${program.url}/api/post-office/${one.email}`)).json();
  const { source } = await (await page.request.get(`${program.url}/api/post-office-letters/${list[0].id}`)).json();
  const link = /^List-Unsubscribe:\s*<([^>]+)>/m.exec(source)?.[1] ?? "";
  const other = await browser.newContext({ viewport: { width: 390, height: 800 } });
  const reader = await other.newPage();
  await reader.goto(link);
  await expect(reader.getByRole("main")).toContainText(one.email);
  await reader.getByRole("button", { name: "Unsubscribe" }).click();
  await expect(reader.getByRole("heading", { name: "You’re unsubscribed" })).toBeVisible();
  await other.close();

  await page.reload();
  await expect(page.getByText("No letter goes out to this address.")).toBeVisible();
  await page.keyboard.press("w");
  await page.getByRole("combobox", { name: "Search templates" }).fill("first letter to a florist");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("button", { name: "Do not contact" })).toBeDisabled();
  await page.getByRole("button", { name: "Discard draft" }).click();
  await page.goto(`${program.url}/opt-outs`);
  const addresses = page.getByRole("list", { name: "Addresses" });
  await expect(addresses).toContainText(one.email);
  await page.getByRole("button", { name: "Add addresses" }).click();
  await page.getByLabel("Paste addresses").fill("Xenia <xenia@nowhere.example>\nnot one");
  await page.getByRole("button", { name: "Add to the list" }).click();
  await expect(page.getByRole("alert")).toContainText("write why");
  await page.getByLabel("Reason").fill("asked by phone");
  await page.getByRole("button", { name: "Add to the list" }).click();
  await expect(addresses).toContainText("xenia@nowhere.example");
  await expect(page.getByText("No email address found in: not one")).toBeVisible();

  await switchTo(page, program.url, "greta@fernhollow.example");
  await page.goto(`${program.url}/opt-outs`);
  await page.getByRole("searchbox", { name: "Search addresses" }).fill("xenia");
  await page.getByRole("button", { name: /^Again ?to xenia/ }).click();
  await page.getByLabel("How they asked").fill("wrote and asked for the price list");
  await page.getByRole("button", { name: "Allow letters again" }).click();
  await expect(page.getByText("No addresses match your search.")).toBeVisible();
});
