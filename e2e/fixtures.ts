import { test as base, expect, type Page } from "@playwright/test";
import { simpleParser } from "mailparser";
import { type Program, startProgram } from "./program.ts";

export const password = "fernhollow";

/** A test gets a program of its own (one for each worker) and a page that is signed in as a representative. */
export const test = base.extend<{ desk: Page }, { program: Program }>({
  program: [
    // biome-ignore lint/correctness/noEmptyPattern: Playwright reads the names of what a fixture needs here
    async ({}, use) => {
      const program = await startProgram();
      await use(program);
      await program.stop();
    },
    { scope: "worker" },
  ],
  desk: async ({ page, program }, use) => {
    // That signing in works is tested where it is done on the screen.
    const answer = await page.request.post(`${program.url}/api/session`, {
      data: { email: "imre@fernhollow.example", password },
    });
    expect(answer.ok(), await answer.text()).toBe(true);
    await hold(page, program.url, 0);
    await use(page);
  },
});

export async function signIn(page: Page, url: string, email: string) {
  await page.goto(url);
  await page.getByLabel("Email").fill(email);
  await page.getByLabel("Password").fill(password);
  await page.getByRole("button", { name: "Sign in" }).click();
  await expect(page.getByRole("navigation", { name: "Sections" })).toBeVisible();
  // Letters go at once, but in the tests of the hold.
  await hold(page, url, 0);
}

/** Sets for how many seconds a letter can be taken back. */
export async function hold(page: Page, url: string, seconds: number) {
  const answer = await page.request.put(`${url}/api/me/hold`, { data: { seconds } });
  expect(answer.ok()).toBe(true);
}

/** Signs out and in again as somebody else. */
export async function switchTo(page: Page, url: string, email: string) {
  if (!page.url().startsWith(url)) await page.goto(url);
  await page.getByRole("button", { name: /^Account of/ }).click();
  await page.getByRole("menuitem", { name: "Sign out" }).click();
  await expect(page.getByLabel("Password")).toBeVisible();
  await signIn(page, url, email);
}

/** Opens the first person of a search, asks for a letter and searches the templates for it. */
export async function pickTemplate(page: Page, url: string, people: string, template: string) {
  await page.goto(`${url}/people?${people}`);
  await page.getByRole("table", { name: "People" }).getByRole("link").first().click();
  await page.getByRole("heading", { level: 1 }).waitFor();
  await page.keyboard.press("w");
  await page.getByRole("combobox", { name: "Search templates" }).fill(template);
}

export type Person = { id: number; firstName: string; lastName: string; email: string };

/** People of a kind who can be written to and whose first name is written as names are. */
export async function reachable(page: Page, url: string, kind: "lead" | "contact"): Promise<[Person, Person]> {
  const answer = await page.request.get(`${url}/api/people?kind=${kind}&sort=added&limit=80`);
  const { people } = (await answer.json()) as { people: (Person & { optedOut: boolean })[] };
  const [one, two] = people.filter((p) => p.email && /^[A-Z][a-z]{2,}$/.test(p.firstName) && p.lastName && !p.optedOut);
  if (!one || !two) throw new Error("too few people");
  return [one, two];
}

/** Adds a lead with these values, and gives its number. */
export async function lead(page: Page, url: string, values: Record<string, string>): Promise<number> {
  const answer = await page.request.post(`${url}/api/records/person`, { data: { kind: "lead", values } });
  expect(answer.ok(), await answer.text()).toBe(true);
  return (await answer.json()).id;
}

/** Adds a ready template in the text form. */
export async function template(page: Page, url: string, name: string, subject: string, body: string): Promise<number> {
  const answer = await page.request.post(`${url}/api/templates`, {
    data: {
      name,
      whenToUse: "In tests",
      subject,
      body,
      kind: "plain",
      state: "ready",
      tags: [],
      language: "",
      stationery: 0,
    },
  });
  expect(answer.ok(), await answer.text()).toBe(true);
  return (await answer.json()).id;
}

/** The newest letter in a mailbox, as an independent reader sees it (npm mailparser). */
export async function arrived(page: Page, url: string, box: string) {
  const list = await (await page.request.get(`${url}/api/post-office/${box}`)).json();
  const one = await (await page.request.get(`${url}/api/post-office-letters/${list[0].id}`)).json();
  return simpleParser(one.source);
}

export { expect };
