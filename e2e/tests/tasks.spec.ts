import ICAL from "ical.js";
import { expect, hold, pickTemplate, reachable, template, test } from "../fixtures.ts";

test("tasks are written down, put off, done and undone, and followed by a calendar program", async ({
  desk,
  program,
  browser,
}) => {
  const [one] = await reachable(desk, program.url, "contact");
  await desk.goto(`${program.url}/people/${one.id}`);
  const next = desk.getByRole("region", { name: "Next" });
  await next.getByRole("button", { name: "New task" }).click();
  await next.getByRole("textbox", { name: "New task" }).fill("Call about the door; bring the drawing");
  await next.getByLabel("Day").fill("2030-01-02");
  await next.getByLabel("Time").fill("14:30");
  await desk.keyboard.press("Enter");
  await expect(next).toContainText("2 Jan 2030, 14:30");

  await desk.getByRole("link", { name: "Today" }).click();
  await expect(desk.getByRole("region", { name: "Later" })).toContainText("Call about the door");
  await desk.getByRole("button", { name: "Add task" }).click();
  await expect(desk.getByRole("alert")).toContainText("say what needs doing");
  await desk.getByRole("textbox", { name: "New task" }).fill("Order paper");
  await desk.getByLabel("Day", { exact: true }).fill(new Date().toISOString().slice(0, 10));
  await desk.getByRole("button", { name: "Add task" }).click();
  const due = desk.getByRole("region", { name: "Due" });
  await expect(due).toContainText("Order paper");
  await due.getByRole("button", { name: /^Tomorrow ?: Order paper/ }).click();
  await expect(desk.getByRole("region", { name: "Later" })).toContainText("Order paper");
  await desk.getByRole("button", { name: /^Done ?: Order paper/ }).click();
  await expect(desk.getByRole("main")).not.toContainText("Order paper");
  await desk
    .getByRole("listitem")
    .filter({ hasText: /^Done\./ })
    .getByRole("button", { name: "Undo" })
    .click();
  await expect(desk.getByRole("region", { name: "Later" })).toContainText("Order paper");

  await desk.getByRole("button", { name: "Add to my calendar" }).click();
  const address = await desk.getByRole("textbox", { name: "Private address" }).inputValue();
  // A calendar program does not sign in; ical.js reads what it gets (RFC 5545).
  const other = await browser.newContext();
  const answer = await other.request.get(address);
  expect(answer.headers()["content-type"]).toBe("text/calendar; charset=utf-8");
  const calendar = new ICAL.Component(ICAL.parse(await answer.text()));
  const task = calendar
    .getAllSubcomponents("vtodo")
    .find((c) => c.getFirstPropertyValue("summary") === "Call about the door; bring the drawing");
  const at = task?.getFirstPropertyValue("due") as ICAL.Time | undefined;
  expect(at?.toJSDate().toISOString()).toBe("2030-01-02T14:30:00.000Z");
  expect(String(task?.getFirstPropertyValue("url"))).toBe(`${program.url}/people/${one.id}`);
  await desk.getByRole("button", { name: "Replace this address" }).click();
  await expect(desk.getByRole("textbox", { name: "Private address" })).not.toHaveValue(address);
  expect((await other.request.get(address)).status()).toBe(404);
  await other.close();
});

test("what is pressed twice while it is under way is written once", async ({ desk, program }) => {
  let posts = 0;
  let letGo = () => {};
  const held = new Promise<void>((go) => {
    letGo = go;
  });
  await desk.route("**/api/tasks", async (route) => {
    if (route.request().method() !== "POST") return route.continue();
    posts++;
    await held;
    await route.continue();
  });
  await desk.goto(`${program.url}/today`);
  const line = desk.getByRole("textbox", { name: "New task" });
  await line.fill("Measure the door once");
  await line.press("Enter");
  await expect.poll(() => posts).toBe(1);
  await line.press("Enter");
  await desk.getByRole("button", { name: "Add task" }).click();
  letGo();
  await expect(line).toHaveValue("");
  await expect(desk.getByRole("button", { name: /^Done ?: Measure the door once/ })).toHaveCount(1);
  expect(posts).toBe(1);
});

test("many tasks that come due are one notice, and a letter can be taken back after the clock was moved", async ({
  desk,
  program,
}) => {
  test.setTimeout(150_000); // a machine that does more than this takes its time
  await desk.goto(`${program.url}/people`);
  const now = Date.parse((await (await desk.request.get(`${program.url}/api/tasks/due`)).json()).now);
  for (let i = 0; i < 20; i++) {
    const answer = await desk.request.post(`${program.url}/api/tasks`, {
      data: { text: `Measure door ${i}`, dueAt: new Date(now + 600_000).toISOString() },
    });
    expect(answer.ok(), await answer.text()).toBe(true);
  }
  const skipped = await desk.request.post(`${program.url}/api/post-office-world/clock`, { data: { minutes: 60 } });
  expect(skipped.ok(), await skipped.text()).toBe(true);
  await expect(desk.getByText(/^2\d tasks became due/)).toBeVisible({ timeout: 60_000 });
  await expect(desk.getByText(/^Due now:/)).toHaveCount(0);

  // The window is older than any hold, and its computer's clock is an hour behind the program's.
  await hold(desk, program.url, 60);
  const [one] = await reachable(desk, program.url, "contact");
  await template(desk, program.url, "Clock moved", "Your cold room", "Dear {{person.first_name}},\n\nGood.");
  await pickTemplate(desk, program.url, `q=${encodeURIComponent(one.email)}`, "Clock moved");
  await desk.keyboard.press("Enter");
  await desk.getByRole("button", { name: /^Proof/ }).click();
  await desk
    .getByRole("dialog", { name: /^Proof for/ })
    .getByRole("button", { name: /^Send to/ })
    .click();
  const going = desk.getByRole("region", { name: "Going" });
  await expect(going.getByRole("button", { name: "Take back" })).toBeVisible();
  await going.getByRole("button", { name: "Take back" }).click();
  await expect(going).toBeHidden();
  await hold(desk, program.url, 0);
});
