import { expect, reachable, test } from "../fixtures.ts";

test("the cursor is where a person goes on, and keys do what the help says", async ({ desk, program }) => {
  const [lead] = await reachable(desk, program.url, "lead");
  await desk.goto(`${program.url}/people/${lead.id}`);
  await desk.getByRole("heading", { level: 1 }).waitFor();
  // What is typed right after w goes into the search, and after Enter into the letter.
  await desk.keyboard.type("wquote as a table");
  await desk.keyboard.press("Escape");
  await desk.keyboard.type("wseasonal");
  await expect(desk.getByRole("region", { name: "Preview" })).toContainText(/./);
  await desk.keyboard.press("Enter");
  const letter = desk.getByRole("textbox", { name: "Letter" });
  await expect(letter).toBeFocused();
  await desk.keyboard.type("Typed at once. ");
  await expect(letter).toContainText("Typed at once. ");
  const address = new URL(desk.url()).pathname;

  // Opened by its address, the first Tab does not go out of the letter to the skip link.
  await expect(desk.getByRole("status").getByText("Saved")).toBeVisible();
  await desk.reload();
  await expect(letter).toBeFocused();
  await desk.keyboard.press("Tab");
  await expect(desk.getByRole("link", { name: "Skip to content" })).not.toBeFocused();

  // Esc stops typing, then goes back; the help lists the keys of this screen.
  await letter.click();
  await desk.keyboard.press("Escape");
  await expect(letter).not.toBeFocused();
  await desk.keyboard.press("?");
  const help = desk.getByRole("dialog", { name: "Keyboard shortcuts" });
  await expect(help.getByRole("region", { name: "In a letter" })).toContainText("Open the proof, then send");
  await desk.keyboard.press("Escape");
  await expect(help).toHaveCount(0);
  expect(new URL(desk.url()).pathname).toBe(address);
  await desk.keyboard.press("Escape");
  await expect(desk).toHaveURL(/\/people\/\d+|\/today/);

  await desk.request.delete(`${program.url}/api${address}`);

  // j and k step through every list, Enter opens, Esc goes back to it.
  for (const [list, open] of [
    ["/deals", /\/deals\/\d+$/],
    ["/passages", /\/passages/],
    ["/shelf", /\/shelf\?item=/],
  ] as const) {
    await desk.goto(program.url + list);
    await desk.getByRole("main").getByRole("listitem").or(desk.getByRole("main").getByRole("row")).nth(2).waitFor();
    await desk.keyboard.press("j");
    await desk.keyboard.press("j");
    await desk.keyboard.press("k");
    await desk.keyboard.press("Enter");
    await expect(desk).toHaveURL(open);
  }
  await desk.goto(`${program.url}/deals`);
  await desk.getByRole("main").getByRole("link").nth(3).waitFor();
  await desk.keyboard.press("j");
  await desk.keyboard.press("Enter");
  await expect(desk).toHaveURL(/\/deals\/\d+$/);
  await desk.keyboard.press("Escape");
  await expect(desk).toHaveURL(/\/deals$/);
});

test("deleting over fixed wording says why it stays", async ({ desk, program }) => {
  const list = await (await desk.request.get(`${program.url}/api/templates?q=quote%20delivered`)).json();
  const { deals } = await (await desk.request.get(`${program.url}/api/deals`)).json();
  const deal = deals.find((d: { mainContactId?: number; stage: string }) => d.mainContactId && d.stage !== "lost");
  const made = await desk.request.post(`${program.url}/api/letters`, {
    data: { personId: deal.mainContactId, dealId: deal.id, templateId: list.templates[0].id },
  });
  await desk.goto(`${program.url}/letters/${(await made.json()).id}`);
  const letter = desk.getByRole("textbox", { name: "Letter" });
  await letter.click();
  await desk.keyboard.press("Control+A");
  await desk.keyboard.press("Delete");
  await expect(desk.getByText("This wording is fixed by the template and can’t be changed")).toBeVisible();
  await expect(letter).toContainText("Prices are net of VAT");
  await desk.getByRole("button", { name: "Discard draft" }).click();
});

test("unsaved changes of a template are not lost by going elsewhere", async ({ desk, program }) => {
  await desk.goto(`${program.url}/templates/new`);
  await desk.getByLabel("Name (recipients never see it)").fill("Half written");
  await desk.getByRole("link", { name: "People" }).click();
  const ask = desk.getByRole("dialog", { name: "Leave without saving?" });
  await ask.getByRole("button", { name: "Stay here" }).click();
  await expect(ask).toHaveCount(0);
  const name = desk.getByLabel("Name (recipients never see it)");
  await name.click();
  await desk.keyboard.press("Escape");
  await expect(name).not.toBeFocused();
  await desk.keyboard.press("Escape");
  await expect(ask.getByRole("button", { name: "Stay here" })).toBeVisible();
  await desk.keyboard.press("Escape");
  await expect(desk.getByLabel("Name (recipients never see it)")).toHaveValue("Half written");
  await desk.getByRole("button", { name: "Save as draft" }).click();
  await expect(desk).toHaveURL(/\/templates\/\d+$/);
  await desk.getByRole("link", { name: "People" }).click();
  await expect(desk).toHaveURL(/\/people/);
});

// Reminders and tasks follow the clock of the program, also after the post office moved it on.
test("tasks are due by the program's clock", async ({ desk, program }) => {
  const { now } = await (await desk.request.get(`${program.url}/api/news?after=-1`)).json();
  const in_ = (days: number) => new Date(Date.parse(now) + days * 24 * 3600 * 1000).toISOString().slice(0, 10);
  await desk.goto(`${program.url}/today`);
  await desk.getByRole("textbox", { name: "New task" }).fill("Send the drawing");
  await desk.getByLabel("Day").fill(in_(3));
  await desk.getByRole("button", { name: "Add task" }).click();
  await expect(desk.getByRole("region", { name: "Later" })).toContainText("Send the drawing");
  await desk.request.post(`${program.url}/api/post-office-world/clock`, { data: { minutes: 5 * 24 * 60 } });
  await desk.reload();
  await expect(
    desk.getByRole("region", { name: "Overdue" }).or(desk.getByRole("region", { name: "Due" })),
  ).toContainText("Send the drawing");
});

test("what came back stands on Today until it is dealt with, and a cancelled letter is written anew", async ({
  desk,
  program,
}) => {
  // Somebody of this test's own: other tests write to the others.
  const added = await desk.request.post(`${program.url}/api/people`, {
    data: { text: "No Body <no.body@keys.example>" },
  });
  const lead = await added.json();
  await desk.request.put(`${program.url}/api/post-office/${lead.email}/character`, { data: { key: "returns" } });
  const write = async (subject: string) => {
    await desk.goto(`${program.url}/people/${lead.id}`);
    await desk.getByRole("heading", { level: 1 }).waitFor();
    await desk.keyboard.type("wan empty letter");
    await desk.keyboard.press("Enter");
    await desk.getByRole("textbox", { name: "Subject" }).fill(subject);
    await desk.getByRole("textbox", { name: "Letter" }).click();
    await desk.keyboard.press("Control+Home");
    await desk.keyboard.type("Hello, one line only.");
  };
  await write("To nowhere");
  await desk.getByRole("button", { name: /^Send to / }).click();
  await expect(desk.getByText("Filed as it was sent")).toBeVisible();
  await desk.request.post(`${program.url}/api/post-office-world/clock`, { data: { minutes: 60 } });
  await desk.goto(`${program.url}/today`);
  const back = desk.getByRole("region", { name: "Needs a look" });
  await expect(back).toContainText("To nowhere");
  await desk.reload();
  await back.getByRole("listitem").filter({ hasText: "To nowhere" }).getByRole("button", { name: /^Done/ }).click();
  await expect(back.getByText("To nowhere")).toHaveCount(0);

  // Under Recent activity it can still be read, and what was cancelled is written anew with one press.
  await desk.getByText("Recent activity").click();
  await expect(desk.getByRole("list", { name: "Recent activity" })).toContainText("To nowhere");
  const [other] = (await reachable(desk, program.url, "contact")).slice(1);
  const made = await desk.request.post(`${program.url}/api/letters`, { data: { personId: other?.id } });
  const { id } = await made.json();
  await desk.goto(`${program.url}/letters/${id}`);
  await desk.getByRole("textbox", { name: "Subject" }).fill("Later, perhaps");
  await desk.getByRole("textbox", { name: "Letter" }).click();
  await desk.keyboard.type("Words that stay.");
  await desk.getByRole("button", { name: /^When/ }).click();
  await desk.getByRole("dialog").getByText("Next working morning").first().click();
  await desk.keyboard.press("Control+Enter");
  await desk.getByRole("button", { name: /^Send to / }).click();
  await expect(desk.getByText(/^Waiting to go/).first()).toBeVisible(); // it is sent before the page is left
  await desk.goto(`${program.url}/outbox`);
  const line = desk.getByRole("listitem").filter({ hasText: "Later, perhaps" });
  await line.getByRole("button", { name: /^Cancel/ }).click();
  await line.getByRole("button", { name: /Write it again/ }).click();
  await expect(desk.getByRole("textbox", { name: "Letter" })).toContainText("Words that stay.");
  await desk.getByRole("button", { name: "Discard draft" }).click();
});
