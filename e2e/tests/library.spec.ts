import AxeBuilder from "@axe-core/playwright";
import type { Page } from "@playwright/test";
import { expect, signIn, switchTo, test } from "../fixtures.ts";

const template = (page: Page, name: string) =>
  page
    .getByRole("list", { name: "Templates" })
    .getByRole("listitem")
    .filter({ has: page.getByRole("link", { name, exact: true }) });

test("a folder is shared with a team, whose members use what is in it and cannot change it", async ({
  page,
  program,
}) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  await page.goto(`${program.url}/templates`);
  const folders = page.getByRole("navigation", { name: "Folders" });
  await folders.getByRole("button", { name: "New folder" }).click();
  await page.getByLabel("Folder name").fill("Only the south");
  await page.keyboard.press("Enter");
  await expect(folders.getByRole("button", { name: /^Only the south/ })).toBeVisible();

  // A template goes into it with the keyboard alone.
  await page.getByRole("searchbox", { name: "Search templates" }).fill("site photographs");
  await expect(page.getByRole("status").getByText("1 template")).toBeVisible();
  await expect(page.locator("mark").first()).toHaveText("Site");
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("m");
  await page.getByRole("dialog").getByRole("button", { name: "Only the south" }).press("Enter");
  await expect(page.getByText("“Site photographs wanted” was moved.")).toBeVisible();
  await expect(template(page, "Site photographs wanted")).toContainText("Only the south");

  await folders.getByRole("button", { name: "Actions for the folder Only the south" }).click();
  await page.getByRole("menuitem", { name: "Who can use it" }).click();
  const use = page.getByRole("group", { name: "Who can use it" });
  await use.getByText("Selected people").click();
  await use.getByLabel("Fernhollow Cold Rooms, South").check();
  await page.getByRole("button", { name: "Save" }).click();
  await expect(folders.getByLabel("not for everybody")).toBeVisible();

  // Imre is in the north: for him it is not there.
  const id = (await (await page.request.get(`${program.url}/api/templates?q=site+photographs`)).json()).templates[0].id;
  await switchTo(page, program.url, "imre@fernhollow.example");
  await page.goto(`${program.url}/templates?q=site+photographs`);
  await expect(page.getByText("No templates match your search.")).toBeVisible();
  await expect(folders.getByRole("button", { name: /^Only the south/ })).toHaveCount(0);
  await page.goto(`${program.url}/templates/${id}`);
  await expect(page.getByRole("alert")).toContainText("you don’t have access");

  // Celia is in the south: she uses it and cannot edit it.
  await switchTo(page, program.url, "celia@fernhollow.example");
  await page.goto(`${program.url}/templates/${id}`);
  await expect(page.getByText("You can use it but not change it")).toBeVisible();
  await expect(page.getByRole("textbox", { name: "Name" })).toHaveAttribute("readonly");
  const started = await page.request.post(`${program.url}/api/letters`, { data: { personId: 6, templateId: id } });
  expect(started.status()).toBe(200);
});

test("templates are starred, ordered, moved by dragging, deleted and put back", async ({ page, program }) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  await page.goto(`${program.url}/templates`);
  const folders = page.getByRole("navigation", { name: "Folders" });
  await page.getByRole("button", { name: "Star Missed call" }).click();
  await folders.getByRole("button", { name: "Starred" }).click();
  await expect(page.getByRole("list", { name: "Templates" }).getByRole("listitem")).toHaveCount(1);
  await expect(page.getByRole("region", { name: "Preview" })).toContainText("Best wishes");

  await folders.getByRole("button", { name: /^Opening/ }).click();
  const names = page.getByRole("list", { name: "Templates" }).getByRole("link");
  // A folder lists what the folders in it hold, behind its own.
  const own = [
    "Answer to an enquiry from the website",
    "Missed call",
    "Welcome, new contact",
    "Following up a conversation online",
  ];
  for (const [i, name] of own.entries()) await expect(names.nth(i)).toHaveText(name);
  const all = await names.count();
  expect(all).toBeGreaterThan(own.length);
  await template(page, "Welcome, new contact")
    .getByRole("button", { name: /^Actions for/ })
    .click();
  await page.getByRole("menuitem", { name: "Move up" }).click();
  await expect(names.nth(1)).toHaveText("Welcome, new contact");

  const inside = folders.getByRole("button", { name: /^Inside/ });
  await template(page, "Missed call").getByRole("link").hover();
  await page.mouse.down();
  const box = await inside.boundingBox();
  if (!box) throw new Error("no folder");
  await page.mouse.move(box.x + 60, box.y + 40, { steps: 5 });
  await page.mouse.move(box.x + 60, box.y + 10, { steps: 5 });
  await page.mouse.up();
  await expect(page.getByText("“Missed call” is in “Inside” now.")).toBeVisible();
  await expect(names).toHaveCount(all - 1);

  await inside.click();
  await template(page, "Missed call")
    .getByRole("button", { name: /^Actions for/ })
    .click();
  await page.getByRole("menuitem", { name: "Delete" }).click();
  await expect(page.getByRole("dialog")).toContainText("They stay as they were sent");
  await page.getByRole("button", { name: "Delete the template" }).click();
  await expect(template(page, "Missed call")).toHaveCount(0);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(template(page, "Missed call")).toBeVisible();

  await template(page, "Missed call")
    .getByRole("button", { name: /^Actions for/ })
    .click();
  await page.getByRole("menuitem", { name: "Duplicate" }).click();
  await expect(page.getByRole("textbox", { name: "Name" })).toHaveValue("Copy of Missed call");
  await expect(page.getByText("Draft: nobody can use it")).toBeVisible();
});

test("the folders of a library can be used at any width and by those who cannot see", async ({ desk, program }) => {
  await desk.setViewportSize({ width: 390, height: 844 });
  await desk.goto(`${program.url}/templates`);
  await desk.getByRole("button", { name: "Folders" }).click();
  await desk
    .getByRole("navigation", { name: "Folders" })
    .getByRole("button", { name: /^Meeting/ })
    .click();
  await expect(desk.getByRole("status").getByText("Meeting")).toBeVisible();
  const wide = await desk.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
  expect(wide).toBeLessThanOrEqual(0);
  await desk.setViewportSize({ width: 1280, height: 800 });
  await desk.goto(`${program.url}/templates?q=cold`);
  await expect(desk.locator("mark").first()).toBeVisible();
  for (const theme of ["light", "dark"]) {
    await desk.evaluate((t) => {
      document.documentElement.dataset.theme = t;
    }, theme);
    const { violations } = await new AxeBuilder({ page: desk }).analyze();
    expect(violations.filter((v) => v.impact === "serious" || v.impact === "critical")).toEqual([]);
  }
});
