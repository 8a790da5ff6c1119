import { arrived, expect, reachable, signIn, switchTo, test } from "../fixtures.ts";

const source = `<html><body style="font-family:sans-serif"><h1>Dear {{person.first_name}},</h1>
<p>our workshop is on <b>{{?day}}</b>.</p><p><a href="https://fernhollow.example/workshop">The programme</a></p></body></html>`;

test("a letter that is a page is changed part by part, its build stays, and it arrives so", async ({
  page,
  program,
}) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  const made = await page.request.post(`${program.url}/api/templates`, {
    data: {
      name: "Workshop page",
      whenToUse: "",
      state: "ready",
      kind: "html",
      subject: "The workshop, {{person.first_name}}",
      body: source,
    },
  });
  expect(made.ok()).toBe(true);
  await switchTo(page, program.url, "imre@fernhollow.example");
  const [to] = await reachable(page, program.url, "lead");
  await page.goto(`${program.url}/people/${to.id}`);
  await page.getByRole("heading", { level: 1 }).waitFor();
  await page.keyboard.press("w");
  await page.getByRole("combobox", { name: "Search templates" }).fill("workshop page");
  await page.keyboard.press("Enter");
  const sheet = page.frameLocator("iframe[title='The page']");
  await sheet.getByRole("button", { name: `Change: Dear ${to.firstName},` }).click();
  const margin = page.getByRole("complementary");
  const words = margin.getByRole("textbox", { name: "Words" });
  await words.fill(`Good morning, ${to.firstName} & all,`);
  await words.press("Enter");
  await expect(sheet.getByRole("heading")).toHaveText(`Good morning, ${to.firstName} & all,`);
  await margin.getByRole("textbox", { name: "day" }).fill("Monday");
  await page.keyboard.press("Enter");
  await expect(sheet.getByText("Monday")).toBeVisible();
  await sheet.getByRole("button", { name: "Change: The programme" }).press("Enter");
  await margin.getByRole("textbox", { name: "Link address" }).fill("https://fernhollow.example/programme");
  await margin.getByRole("button", { name: "Save" }).click();
  await page.getByRole("button", { name: /^Send to / }).click();
  await expect(page.getByText("Filed as it was sent")).toBeVisible();
  const read = await arrived(page, program.url, to.email);
  expect(read.html).toContain(`<h1>Good morning, ${to.firstName} &amp; all,</h1>`);
  // The link leads through the program, which counts it.
  const link = /href="([^"]+\/l\/[^"]+)"/.exec(String(read.html))?.[1] ?? "";
  const led = await page.request.get(link, { maxRedirects: 0 });
  expect(led.headers().location).toBe("https://fernhollow.example/programme");
  expect(read.html).not.toContain("data-part");
  expect(read.text).toContain("our workshop is on Monday.");
});
