import AxeBuilder from "@axe-core/playwright";
import { expect, signIn, test } from "../fixtures.ts";

test("what a version changed is seen by words, and an earlier wording comes back as the newest", async ({
  page,
  program,
}) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  const wording = {
    name: "Red rooms",
    whenToUse: "",
    subject: "For you",
    body: "Dear {{person.first_name|you}},\n\nthe red room is cold.\n",
  };
  const made = await page.request.post(`${program.url}/api/templates`, { data: { ...wording, state: "ready" } });
  const { id } = await made.json();
  await page.goto(`${program.url}/templates/${id}`);
  const body = page.getByRole("textbox", { name: "Letter" });
  await body.getByText("the red room is cold.").click();
  await page.keyboard.press("End");
  await page.keyboard.type(" Come and see.");
  await page.getByRole("button", { name: "Save new version" }).click();
  await expect(page.getByText("Version 2.")).toBeVisible();
  await page.getByText("Versions", { exact: true }).click();
  const versions = page.getByRole("region", { name: "Versions" });
  await expect(versions.getByRole("listitem").getByRole("button")).toHaveCount(2);
  const changed = page.getByRole("region", { name: "What changed" });
  await expect(changed.getByRole("insertion")).toHaveText(" Come and see.");
  await expect(changed.getByRole("deletion")).toHaveCount(0);
  await versions.getByRole("button", { name: "Version 1 Greta" }).click();
  await changed.getByRole("combobox").selectOption("version 2");
  await expect(changed.getByRole("deletion")).toHaveText(" Come and see.");
  // What is about to vanish is half seen through.
  await expect(page.locator("[data-sonner-toast]")).toHaveCount(0, { timeout: 15_000 });
  for (const theme of ["light", "dark"]) {
    await page.evaluate((t) => {
      document.documentElement.dataset.theme = t;
    }, theme);
    const { violations } = await new AxeBuilder({ page }).analyze();
    expect(violations.filter((v) => v.impact === "serious" || v.impact === "critical")).toEqual([]);
  }
  await changed.getByRole("button", { name: "Bring version 1 back" }).click();
  await expect(body).toContainText("the red room is cold.");
  await expect(body).not.toContainText("Come and see.");
  await page.getByRole("button", { name: "Save new version" }).click();
  await expect(page.getByText("Version 3.")).toBeVisible();
  const now = await (await page.request.get(`${program.url}/api/templates/${id}`)).json();
  expect(now.body).toBe(wording.body);
});

test("a formatted wording comes back after a plain one, and the other way round", async ({ page, program }) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  const made = await page.request.post(`${program.url}/api/templates`, {
    data: { name: "Turned", whenToUse: "", subject: "s", body: "Plain words\n", state: "ready" },
  });
  const { id } = await made.json();
  await page.goto(`${program.url}/templates/${id}`);
  await page.getByRole("button", { name: "Format it" }).click();
  const body = page.getByRole("textbox", { name: "Letter" });
  await body.getByText("Plain words").click();
  await page.getByRole("button", { name: "Bold" }).click();
  await page.keyboard.type("new ");
  await page.getByRole("button", { name: "Save new version" }).click();
  await expect(page.getByText("Version 2.")).toBeVisible();
  const versions = page.getByRole("region", { name: "Versions" });
  const bringBack = async (version: number, onto: number) => {
    await page.getByText("Versions", { exact: true }).click();
    await versions.getByRole("button", { name: `Version ${version} Greta` }).click();
    await versions.getByRole("button", { name: `Bring version ${version} back` }).click();
    await page.getByRole("button", { name: "Save new version" }).click();
    await expect(page.getByText(`Version ${onto}.`)).toBeVisible();
  };
  await bringBack(1, 3);
  await expect(body).toHaveText("Plain words");
  await expect(page.getByRole("button", { name: "Format it" })).toBeVisible();
  await bringBack(2, 4);
  await expect(body.locator("strong")).toHaveText("new");
  await expect(page.getByRole("button", { name: "Format it" })).toBeHidden();
  await body.locator("strong").dblclick();
  await page.getByRole("button", { name: "Italic" }).click();
  await page.getByRole("button", { name: "Save new version" }).click();
  await expect(page.getByText("Version 5.")).toBeVisible();
  await page.getByText("Versions", { exact: true }).click();
  await expect(page.getByText("only the formatting may differ")).toBeVisible();
  const now = await (await page.request.get(`${program.url}/api/templates/${id}`)).json();
  expect(now.kind).toBe("formatted");
});
