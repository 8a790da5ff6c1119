import { execFileSync } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import AxeBuilder from "@axe-core/playwright";
import type { Page } from "@playwright/test";
import ICAL from "ical.js";
import { expect, lead, signIn, switchTo, template, test } from "../fixtures.ts";
import { type Program, startProgram } from "../program.ts";

// The clock is moved on, so these have a program of their own.
let program: Program;
test.beforeAll(async () => {
  program = await startProgram();
});
test.afterAll(() => program.stop());

const days = (page: Page, n: number) =>
  page.request.post(`${program.url}/api/post-office-world/clock`, { data: { minutes: n * 24 * 60 } });

/** The sources of the letters in a mailbox of the post office, the earliest first. */
async function sources(page: Page, box: string): Promise<string[]> {
  const list: { id: number }[] = await (await page.request.get(`${program.url}/api/post-office/${box}`)).json();
  const all = await Promise.all(
    list.map(
      async ({ id }) =>
        (await (await page.request.get(`${program.url}/api/post-office-letters/${id}`)).json()).source as string,
    ),
  );
  return all.reverse();
}

/** The state of the run of somebody, as the program has it. */
async function runOf(page: Page, person: number) {
  const { runs } = await (await page.request.get(`${program.url}/api/runs?person=${person}`)).json();
  return runs[0];
}

/** A letter to somebody's mailbox that answers its latest letter. */
async function character(page: Page, box: string, key: string) {
  const answer = await page.request.put(`${program.url}/api/post-office/${box}/character`, { data: { key } });
  expect(answer.ok()).toBe(true);
}

test("a plan of five steps by keyboard alone; three people go through it, one answers, one is away, one has a gap; the plan changes meanwhile", async ({
  page,
}) => {
  test.setTimeout(180_000); // a fortnight of steps, each taken by the program itself
  await signIn(page, program.url, "imre@fernhollow.example");
  await template(
    page,
    program.url,
    "Cold first",
    "A cold room for {{company.name|you}}",
    "Dear {{person.first_name}},\n\nHow do you keep things cold in {{person.city}}?",
  );
  await template(page, program.url, "Cold second", "Not seen", "Dear {{person.first_name}},\n\nDid my letter arrive?");
  await template(
    page,
    program.url,
    "Cold phone",
    "By phone",
    "Dear {{person.first_name}},\n\nShall I ring you on {{person.phone}}?",
  );
  const values = { "person.city": "Plantown", "person.country": "United Kingdom", "person.basis": "Asked us" };
  const stays = await lead(page, program.url, {
    ...values,
    "person.first_name": "Stella",
    "person.last_name": "Marsh",
    "person.email": "stella@marsh.example",
    "person.phone": "020 7946 0001",
  });
  const answers = await lead(page, program.url, {
    ...values,
    "person.first_name": "Anton",
    "person.last_name": "Marsh",
    "person.email": "anton@marsh.example",
    "person.phone": "020 7946 0002",
  });
  const away = await lead(page, program.url, {
    ...values,
    "person.first_name": "Wanda",
    "person.last_name": "Marsh",
    "person.email": "wanda@marsh.example",
  });

  // The plan, with keys alone: Tab and Enter, arrows in the selects.
  await page.goto(`${program.url}/plans`);
  const press = async (...keys: string[]) => {
    for (const key of keys) await page.keyboard.press(key);
  };
  await page.getByRole("button", { name: "New plan" }).focus();
  await press("Enter");
  await page.waitForURL(/\/plans\/\d+$/);
  const name = page.getByRole("textbox", { name: "Name of the plan" });
  await name.focus();
  await press("Control+A");
  await page.keyboard.type("Five cold steps");
  const steps = page.getByRole("list", { name: "Steps" });
  const addLetter = async (title: string) => {
    await page.getByRole("button", { name: "Add a letter" }).focus();
    await press("Enter");
    await expect(page.getByRole("combobox", { name: "Template" })).toBeFocused();
    await page.keyboard.type(title);
    await expect(page.getByRole("option", { name: new RegExp(title) })).toBeVisible();
    await press("Enter");
    await expect(page.getByRole("combobox", { name: "Template" })).toHaveValue(title);
  };
  await addLetter("Cold first");
  await addLetter("Cold second");
  await page.getByRole("button", { name: "Add a task" }).focus();
  await press("Enter");
  await page.getByRole("textbox", { name: "What is to be done" }).focus();
  await page.keyboard.type("Ring ");
  await page.keyboard.type("{");
  await page.getByRole("button", { name: "Close", exact: true }).waitFor();
  await page.keyboard.type("Full name");
  await press("Enter");
  await expect(page.getByRole("textbox", { name: "What is to be done" })).toHaveValue("Ring {{person.full_name}}");
  await addLetter("Cold phone");
  await page.getByRole("button", { name: "Add a text message" }).focus();
  await press("Enter");
  await page.getByRole("textbox", { name: "What the text message says" }).focus();
  await page.keyboard.type("We will be near you next week.");
  await expect(steps.getByRole("listitem")).toHaveCount(5);
  // The task goes before the second letter, and back.
  const task = steps.getByRole("button", { name: /Step 3, Call/ });
  await task.focus();
  await press("Alt+ArrowUp");
  await expect(steps.getByRole("listitem").nth(1)).toContainText("Ring Full name");
  await press("Alt+ArrowDown");
  await expect(steps.getByRole("listitem").nth(2)).toContainText("Ring Full name");
  await press("Control+Enter");
  await expect(page.getByText("5 steps, saved")).toBeVisible();

  // The real dates for somebody, before anything is started.
  await page.getByRole("combobox", { name: "Show the dates for" }).focus();
  await page.keyboard.type("Stella Marsh");
  await expect(page.getByRole("option", { name: /Stella Marsh/ })).toBeVisible();
  await press("Enter");
  await expect(steps.getByRole("listitem").first()).toContainText("09:00");
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.filter((v) => v.impact === "serious" || v.impact === "critical").map((v) => v.id)).toEqual([]);
  await page.getByRole("button", { name: "Make it ready" }).focus();
  await press("Enter");
  await expect(page.getByText("Ready: people can be started on it.")).toBeVisible();
  const plan = Number(page.url().match(/plans\/(\d+)/)?.[1]);

  // Three people are started; the load of each day, and who lacks something, is seen before.
  await page.getByRole("button", { name: "Start people" }).focus();
  await press("Enter");
  await page.waitForURL(/\/start$/);
  for (const who of ["Stella Marsh", "Anton Marsh", "Wanda Marsh"]) {
    await page.getByRole("combobox", { name: /Person|Add another person/ }).focus();
    await page.keyboard.type(who);
    await expect(page.getByRole("option", { name: new RegExp(who) })).toBeVisible();
    await press("Enter");
    await expect(page.getByRole("button", { name: `remove ${who}` })).toBeVisible();
  }
  await expect(page.getByRole("region", { name: "Letters per day" })).toContainText("3 letters");
  const open = page.getByRole("region", { name: "Open letters" });
  await expect(open).toContainText("1 person has a letter that isn’t complete");
  await expect(open).toContainText("step 4: Phone");
  await open.getByRole("button", { name: "Wanda Marsh" }).focus();
  await press("Enter");
  await expect(page.getByRole("region", { name: "The plan for Wanda Marsh" })).toContainText("Re: A cold room for you");
  await page.getByRole("button", { name: "Start 3 people" }).focus();
  await press("Enter");
  await expect(page.getByText("3 people are on their way.")).toBeVisible();
  await expect(page.getByRole("complementary", { name: "People on this plan" }).getByRole("listitem")).toHaveCount(3);

  // The clock is moved on: the first letters go; one answers, one is away.
  await character(page, "anton@marsh.example", "yes");
  await character(page, "wanda@marsh.example", "away");
  await days(page, 4);
  await expect.poll(async () => (await sources(page, "stella@marsh.example")).length).toBe(1);
  await expect.poll(async () => (await sources(page, "wanda@marsh.example")).length).toBe(1);
  await days(page, 1);
  await expect.poll(async () => (await runOf(page, answers)).state).toBe("stopped");
  expect((await runOf(page, answers)).reason).toBe("They replied");
  await expect.poll(async () => (await runOf(page, away)).notBefore ?? "").not.toBe("");
  const put = await runOf(page, away);
  expect(new Date(put.nextAt).getTime()).toBeGreaterThanOrEqual(new Date(put.notBefore).getTime());

  // The plan changes in the middle: what happens to whom is said before it is saved.
  await page.goto(`${program.url}/plans/${plan}`);
  await page.getByRole("button", { name: "Add a task" }).click();
  await page.getByRole("textbox", { name: "What is to be done" }).fill("Send the drawing");
  await page.getByRole("button", { name: "Save the plan" }).click();
  const effects = page.getByRole("dialog", { name: "2 people are on this plan" });
  await expect(effects).toContainText("Send the drawing: 2 people will get it");
  await effects.getByRole("button", { name: "Save the change" }).click();
  await expect(page.getByText("6 steps, saved")).toBeVisible();

  // Everything of Stella comes, each once; Wanda's gap waits on Today with a letter to proofread.
  const comesToEnd = (person: number, state: string) =>
    expect(async () => {
      await days(page, 2);
      expect((await runOf(page, person)).state).toBe(state);
    }).toPass({ timeout: 90_000, intervals: [2500] });
  await comesToEnd(stays, "finished");
  const letters = await sources(page, "stella@marsh.example");
  expect(letters).toHaveLength(3);
  expect((await sources(page, "anton@marsh.example")).length).toBe(1);
  // An independent reader puts them into one conversation (RFC 5322, section 3.6.4).
  const folder = mkdtempSync(join(tmpdir(), "lucid-threads-"));
  const names = letters.map((source, i) => {
    const path = join(folder, `${i}.eml`);
    writeFileSync(path, source);
    return path;
  });
  const threads = execFileSync("perl", [join(import.meta.dirname, "../threads.pl"), ...names.reverse()], {
    encoding: "utf8",
  });
  rmSync(folder, { recursive: true });
  expect(threads.trim().split("\n")).toEqual([
    "0 A cold room for you",
    "1 Re: A cold room for you",
    "2 Re: A cold room for you",
  ]);

  await comesToEnd(away, "waiting");
  await page.goto(`${program.url}/today`);
  const proofread = page.getByRole("region", { name: "Letters to proofread" });
  await expect(proofread).toContainText("Wanda Marsh");
  await expect(proofread).toContainText("Phone is missing; fill it in");
  await expect(page.getByRole("region", { name: "Due" })).toContainText("Ring Stella Marsh");
  await expect(page.getByRole("region", { name: "Due" })).toContainText("Send a text message: We will be near you");
  await proofread.getByRole("link", { name: /Wanda Marsh/ }).click();
  const note = page.getByRole("complementary", { name: "Margin notes" });
  await note.getByRole("textbox").first().fill("020 7946 0003");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: /^Send to / }).click();
  await expect(page.getByText("Filed as it was sent")).toBeVisible();
  await expect.poll(async () => (await runOf(page, away)).state).toBe("going");
});

test("a run is paused, put off and stopped; what is to come stands in the calendar", async ({ page, browser }) => {
  await signIn(page, program.url, "imre@fernhollow.example");
  const person = await lead(page, program.url, {
    "person.first_name": "Ronja",
    "person.last_name": "Field",
    "person.email": "ronja@field.example",
    "person.country": "Germany",
    "person.city": "Bonn",
    "person.phone": "0228 1",
  });
  await page.goto(`${program.url}/people/${person}`);
  await page.getByRole("link", { name: "Start a plan" }).click();
  await page.getByRole("combobox", { name: "Plan" }).selectOption({ label: "After the first letter" });
  await expect(page.getByRole("region", { name: "The plan for Ronja Field" })).toContainText("Europe/Berlin");
  await page.getByLabel("Hour for this run").fill("10:45");
  await expect(page.getByRole("list", { name: "After the first letter for Ronja Field" })).toContainText("10:45");
  await page.getByRole("button", { name: "Start Ronja Field" }).click();
  await page.waitForURL(/\/runs\/\d+/);
  await page.getByRole("button", { name: "Pause" }).click();
  await expect(page.getByRole("status").filter({ hasText: "Paused" })).toBeVisible();
  await page.getByRole("button", { name: "Go on" }).click();
  await page.getByRole("button", { name: "Not before" }).click();
  await expect(page.getByRole("status").filter({ hasText: "not before" })).toBeVisible();

  const { url } = await (await page.request.post(`${program.url}/api/calendar`)).json();
  const other = await browser.newContext();
  const calendar = new ICAL.Component(ICAL.parse(await (await other.request.get(url)).text()));
  await other.close();
  const events = calendar
    .getAllSubcomponents("vevent")
    .filter((e) => String(e.getFirstPropertyValue("summary")).startsWith("Ronja Field: "));
  expect(events.map((e) => e.getFirstPropertyValue("summary"))).toEqual([
    "Ronja Field: Following up (After the first letter)",
    "Ronja Field: What it costs to run (After the first letter)",
    expect.stringContaining("Ronja Field: Call"),
    "Ronja Field: My last letter for this winter (After the first letter)",
  ]);
  const run = await runOf(page, person);
  const first = events[0]?.getFirstPropertyValue("dtstart") as ICAL.Time;
  expect(first.toJSDate().toISOString()).toBe(new Date(run.nextAt).toISOString());

  await page.goto(`${program.url}/people/${person}`);
  await page
    .getByRole("region", { name: "Next" })
    .getByRole("link", { name: /After the first letter/ })
    .click();
  await page.getByRole("button", { name: "Stop" }).click();
  await expect(page.getByRole("status").filter({ hasText: "Stopped: Stopped by Imre Falk" })).toBeVisible();
  await page.goto(`${program.url}/people/${person}`);
  await expect(page.getByRole("main")).toContainText("The plan “After the first letter” stopped");
});

test("a letter of a plan gets words of its own, and the template stays as it is", async ({ page }) => {
  await signIn(page, program.url, "imre@fernhollow.example");
  const id = await template(
    page,
    program.url,
    "Shared words",
    "Shared subject",
    "Dear {{person.first_name}},\n\nthe shared words.",
  );
  await page.goto(`${program.url}/plans?view=shelf`);
  await page.getByRole("button", { name: /^Copy this plan ?: After an event/ }).click();
  await page.waitForURL(/\/plans\/\d+$/);
  await page.getByRole("button", { name: "Add a letter" }).click();
  await page.getByRole("combobox", { name: "Template" }).fill("Shared words");
  await page.getByRole("option", { name: /Shared words/ }).click();
  await page.getByRole("button", { name: "Edit for this plan only" }).click();
  await page.waitForURL(/\/steps\/\d+$/);
  const subject = page.getByRole("textbox", { name: "Subject" });
  await subject.click();
  await page.keyboard.press("Control+A");
  await page.keyboard.type("Only in this plan");
  await page.getByRole("button", { name: "Use it for this plan" }).click();
  await page.waitForURL(/\/plans\/\d+$/);
  await expect(page.getByRole("list", { name: "Steps" })).toContainText("Only in this plan");
  const shared = await (await page.request.get(`${program.url}/api/templates/${id}`)).json();
  expect(JSON.stringify(shared.subject)).toContain("Shared subject");
});

test("a standing order is tried on the past, switched on, acts once; two that undo each other are refused; a lead stops all", async ({
  page,
}) => {
  await signIn(page, program.url, "imre@fernhollow.example");
  await template(
    page,
    program.url,
    "Well qualified",
    "Good news, {{person.first_name}}",
    "Dear {{person.first_name}},\n\nlet us talk.",
  );
  const person = await lead(page, program.url, {
    "person.first_name": "Odette",
    "person.last_name": "Brook",
    "person.email": "odette@brook.example",
    "person.basis": "Asked us",
  });
  const status = async (value: string, was: string) => {
    const answer = await page.request.patch(`${program.url}/api/people/${person}`, {
      data: { was: { "lead.status": was }, set: { "lead.status": value } },
    });
    expect(answer.ok(), await answer.text()).toBe(true);
  };
  const { fields } = await (await page.request.get(`${program.url}/api/people/${person}`)).json();
  await status("qualified", fields.find((f: { path: string }) => f.path === "lead.status").value);

  await page.goto(`${program.url}/plans?view=orders`);
  await page.getByRole("button", { name: "New standing order" }).click();
  await page.waitForURL(/\/orders\/\d+$/);
  await page.getByRole("textbox", { name: "Name of the order" }).fill("Qualified");
  await page.getByRole("combobox", { name: "When" }).selectOption("a field of a person changes");
  await page.getByRole("combobox", { name: "Which field" }).selectOption({ label: "Lead status" });
  await page.getByRole("combobox", { name: "Becomes" }).selectOption("qualified");
  await page.getByRole("button", { name: "Add what it does" }).click();
  const acts = page.getByRole("list", { name: "What it does" });
  await acts.getByRole("combobox", { name: "Then" }).selectOption("send a template to them");
  await acts.getByRole("combobox", { name: /^Template/ }).fill("Well qualified");
  await page.getByRole("option", { name: /Well qualified/ }).click();
  await page.getByRole("button", { name: "Try it on the past 30 days" }).click();
  const trial = page.getByRole("region", { name: "On the past 30 days" });
  await expect(trial).toContainText("Odette Brook");
  await expect(trial).toContainText("Sent “Good news, Odette”");
  expect(await (await page.request.get(`${program.url}/api/post-office/odette@brook.example`)).json()).toEqual([]);
  await page.getByRole("button", { name: "Save the order" }).click();
  await expect(page.getByText("Saved; it is off")).toBeVisible();
  await page.getByRole("switch", { name: "Qualified acts" }).click();
  await expect(page.getByText("Saved; it is on")).toBeVisible();
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.filter((v) => v.impact === "serious" || v.impact === "critical").map((v) => v.id)).toEqual([]);
  const order = page.url();

  await status("parked", "qualified");
  await status("qualified", "parked");
  await expect(page.getByRole("region", { name: "What it did" })).toContainText("Sent “Good news, Odette” to them", {
    timeout: 15_000,
  });
  await expect.poll(async () => (await sources(page, "odette@brook.example")).length).toBe(1);

  // Another one that undoes what wakes the first is refused before it acts.
  for (const [from, to] of [
    ["qualified", "parked"],
    ["parked", "qualified"],
  ] as const) {
    const made = await page.request.post(`${program.url}/api/orders`, {
      data: {
        name: `From ${from}`,
        said: {
          when: { on: "changed", record: "person", path: "lead.status", value: from },
          do: [{ do: "set", path: "lead.status", value: to }],
        },
      },
    });
    const { id } = await made.json();
    await page.goto(`${program.url}/orders/${id}`);
    await page.getByRole("switch", { name: `From ${from} acts` }).click();
    if (from === "qualified") await expect(page.getByText("Saved; it is on")).toBeVisible();
    else await expect(page.getByText("“From parked” → “From qualified” → “From parked”")).toBeVisible();
  }

  await switchTo(page, program.url, "greta@fernhollow.example");
  await page.goto(`${program.url}/plans?view=orders`);
  await page.getByRole("button", { name: "Stop all of them" }).click();
  await expect(page.getByText(/Greta Holm stopped all standing orders/)).toBeVisible();
  await status("new", "qualified");
  await status("qualified", "new");
  await page.goto(order);
  await expect(page.getByRole("region", { name: "What it did" }).getByRole("listitem")).toHaveCount(1);
});

test("tasks are done, put off and written about with keys alone", async ({ page }) => {
  await signIn(page, program.url, "nora@fernhollow.example");
  const person = await lead(page, program.url, {
    "person.first_name": "Tilda",
    "person.last_name": "Moor",
    "person.email": "tilda@moor.example",
    "person.basis": "Asked us",
  });
  const now = (await (await page.request.get(`${program.url}/api/news?after=-1`)).json()).now;
  for (const text of ["First of all", "Second to none", "Third time lucky"]) {
    const answer = await page.request.post(`${program.url}/api/tasks`, {
      data: { text, kind: "call", dueAt: now, personId: person },
    });
    expect(answer.ok()).toBe(true);
  }
  await page.goto(`${program.url}/today`);
  const due = page.getByRole("region", { name: "Due" });
  await due.getByRole("link", { name: "First of all" }).focus();
  await page.keyboard.press("d");
  await expect(due).not.toContainText("First of all");
  await expect(due.getByRole("link", { name: "Second to none" })).toBeFocused();
  await page.keyboard.press("t");
  await expect(due).not.toContainText("Second to none");
  await expect(page.getByRole("region", { name: "Later" })).toContainText("Second to none");
  await due.getByRole("link", { name: "Third time lucky" }).focus();
  await page.keyboard.press("w");
  await expect(page.getByRole("dialog")).toContainText("Tilda Moor");
});
