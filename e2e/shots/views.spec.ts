import { resolve } from "node:path";
import { expect, signIn, test } from "../fixtures.ts";

// One current picture for each main view. SHOTS names another folder for a look in between.
const folder = process.env.SHOTS ?? resolve(import.meta.dirname, "../../docs/screenshots");

test("pictures of the main views", async ({ page, program }) => {
  test.setTimeout(180_000);
  const shot = async (name: string) => {
    await page.evaluate(() => document.fonts.ready.then(() => undefined));
    await page.screenshot({ path: `${folder}/${name}.png` });
  };
  const dark = async (on: boolean) =>
    page.evaluate((d) => (document.documentElement.dataset.theme = d ? "dark" : "light"), on);

  await page.goto(program.url);
  await expect(page.getByRole("button", { name: "Sign in" })).toBeVisible();
  await signIn(page, program.url, "imre@fernhollow.example");

  await expect(page.getByRole("table", { name: "People" }).getByRole("row").nth(5)).toBeVisible();
  await shot("people");

  const contacts = await page.request.get(`${program.url}/api/people?kind=contact&sort=last&down=true&limit=60`);
  for (const p of (await contacts.json()).people as { id: number }[]) {
    const choices = await (await page.request.get(`${program.url}/api/people/${p.id}/templates`)).json();
    await page.goto(`${program.url}/people/${p.id}`);
    if (choices.some((c: { name: string; fits: boolean }) => c.name === "Quote delivered" && c.fits)) break;
  }
  await expect(page.getByRole("article")).toBeVisible();
  await shot("person");

  await page.goto(`${program.url}/rounds`);
  await page
    .getByRole("main")
    .getByRole("link", { name: /Invitation to the open workshop/ })
    .click();
  await expect(page.getByRole("region", { name: "For all alike" })).toBeVisible();
  await expect(page.getByText("Ready, to be proofread", { exact: true })).toBeVisible();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("region", { name: "Differs from the letter before" })).toBeVisible();
  await shot("round");

  await page.goto(`${program.url}/plans`);
  await page.getByRole("link", { name: /After the first letter/ }).click();
  await page.getByRole("combobox", { name: "Show the dates for" }).fill("Solveig Fenwick");
  await page
    .getByRole("option", { name: /Solveig Fenwick/ })
    .first()
    .click();
  await expect(page.getByRole("list", { name: "Steps" }).getByRole("listitem").first()).toContainText(":");
  await expect(
    page.getByRole("complementary", { name: "People on this plan" }).getByRole("listitem").first(),
  ).toBeVisible();
  await shot("plan");

  await page.goto(`${program.url}/plans?view=orders`);
  await page.getByRole("link", { name: /A new lead of mine/ }).click();
  await page.getByRole("button", { name: "Try it on the past 30 days" }).click();
  await expect(page.getByRole("region", { name: "On the past 30 days" })).toBeVisible();
  await shot("standing-order");

  const everybody = await page.request.get(`${program.url}/api/people?kind=lead&limit=500`);
  const nameless = (await everybody.json()).people.find(
    (p: { firstName: string; email: string }) => !p.firstName && p.email,
  );
  await page.goto(`${program.url}/people/${nameless.id}`);
  await page.getByRole("button", { name: /^Write to/ }).click();
  await page.getByRole("combobox", { name: "Search templates" }).fill("answer to an enquiry");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("textbox", { name: "Letter" })).toContainText("cold room");
  await shot("writing-desk");
  await dark(true);
  await shot("writing-desk-dark");
  await dark(false);
  await page.setViewportSize({ width: 390, height: 844 });
  await shot("writing-desk-phone");
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.getByRole("complementary").getByRole("textbox", { name: "First name" }).fill("Anouk");
  await page.keyboard.press("Enter");
  await expect(page.getByText("Nothing is missing. Ready to send.")).toBeVisible();
  await page.getByRole("button", { name: "Proof" }).click();
  await expect(page.getByRole("dialog").getByText("Anouk,")).toBeVisible();
  await shot("proof");
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: /^Send to/ }).click();
  await expect(page.getByText("Filed as it was sent")).toBeVisible();

  await page.goto(`${program.url}/me`);
  await expect(page.getByRole("textbox", { name: /^Signature for/ })).toContainText("Imre Falk");
  await shot("my-letters");
  const { deals } = (await (await page.request.get(`${program.url}/api/deals`)).json()) as { deals: { id: number }[] };
  for (const d of deals) {
    const history = await (await page.request.get(`${program.url}/api/history?deal=${d.id}&only=letters`)).json();
    if (history.groups.length === 0) continue;
    await page.goto(`${program.url}/deals/${d.id}`);
    break;
  }
  await expect(page.getByRole("article")).toBeVisible();
  await shot("deal");
  await page.goto(`${program.url}/deals?view=stages`);
  await expect(page.getByRole("link", { name: /cold room/i }).first()).toBeVisible();
  await shot("deals-by-stage");
  await page.goto(`${program.url}/today`);
  await expect(page.getByRole("region", { name: "Replies" })).toBeVisible();
  await shot("today");

  await page.goto(`${program.url}/outbox?view=sent`);
  await expect(page.getByRole("listitem").first()).toBeVisible();
  await shot("outbox");
  await page.goto(`${program.url}/templates`);
  await expect(page.getByRole("list", { name: "Templates" })).toBeVisible();
  await shot("templates");
  await signOutAndIn(page, program.url);
  await page.getByRole("link", { name: "First letter to a bakery" }).click();
  await page.getByRole("textbox", { name: "Letter" }).click();
  await page.keyboard.type("{{person.frist_name}} ");
  await expect(page.getByText("There is no field person.frist_name")).toBeVisible();
  await shot("template");

  await page.goto(`${program.url}/templates`);
  await page.getByRole("link", { name: "Invitation with programme and button" }).click();
  const chip = page.locator("[data-field='team.own.next_event_date']");
  await chip.click();
  await expect(page.getByLabel("Written")).toBeVisible();
  await shot("template-formatted");

  await page.goto(`${program.url}/post-office`);
  await expect(page.getByRole("article")).toBeVisible();
  await shot("post-office");
  await signOutAndIn(page, program.url, "otis");
  await page.goto(`${program.url}/settings`);
  await page.getByLabel("Add an unsubscribe link").check();
  await expect(page.getByRole("region", { name: "Mail servers" })).toBeVisible();
  await shot("settings");
});

async function signOutAndIn(page: import("@playwright/test").Page, url: string, who = "greta") {
  await page.getByRole("button", { name: /^Account of/ }).click();
  await page.getByRole("menuitem", { name: "Sign out" }).click();
  await signIn(page, url, `${who}@fernhollow.example`);
  await page.goto(`${url}/templates`);
}
