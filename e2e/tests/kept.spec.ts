import type { BrowserContext, Page } from "@playwright/test";
import { expect, type Person, pickTemplate, reachable, test } from "../fixtures.ts";

// A letter never carries another person's words, loses words, or damages a record.

const letterOf = (page: Page) => page.getByRole("textbox", { name: "Letter" });
const marginOf = (page: Page) => page.getByRole("complementary", { name: "Margin notes" });

/** Begins a letter from a template of this file. */
async function begin(page: Page, url: string, who: Person) {
  const template = "Words that are kept";
  const found = await (await page.request.get(`${url}/api/people/${who.id}/templates`)).json();
  if (!found.some((c: { name: string }) => c.name === template)) {
    const body = "Dear {{person.first_name}},\n\nThere is room for you.";
    const data = { name: template, whenToUse: "", subject: "Room", body, state: "ready" };
    expect((await page.request.post(`${url}/api/templates`, { data })).ok()).toBe(true);
  }
  await page.goto(`${url}/people/${who.id}`);
  await page.getByRole("heading", { level: 1 }).waitFor();
  await page.keyboard.press("w");
  await page.getByRole("combobox", { name: "Search templates" }).fill(template);
  await page.keyboard.press("Enter");
  await expect(letterOf(page)).toContainText("Dear");
}

async function second(context: BrowserContext, of: Page): Promise<Page> {
  const page = await context.newPage();
  await page.goto(of.url());
  await expect(letterOf(page)).toContainText("Dear");
  return page;
}

async function typeAtEnd(page: Page, words: string) {
  await letterOf(page).press("Control+End");
  await page.keyboard.type(words);
}

test("words for somebody whose letter was discarded elsewhere never get into another letter", async ({
  desk,
  program,
  context,
}) => {
  const [ada, bo] = await reachable(desk, program.url, "lead");
  await begin(desk, program.url, ada);
  const other = await second(context, desk);
  await other.getByRole("button", { name: "Discard draft" }).click();
  await expect(other.getByText("Draft discarded.")).toBeVisible();
  await begin(other, program.url, bo);
  const hers = other.url();
  await typeAtEnd(desk, "\nYour number is 555 0101.");
  await expect(
    desk.getByText("This letter was discarded in another window. Your words are in this new draft."),
  ).toBeVisible();
  await expect(desk).not.toHaveURL(hers);
  await expect(letterOf(desk)).toContainText("Your number is 555 0101.");
  await expect(desk.getByRole("button", { name: new RegExp(`^Send to ${ada.firstName}`) })).toBeVisible();
  await other.reload();
  await expect(letterOf(other)).not.toContainText("555 0101");
  await other.getByRole("button", { name: "Discard draft" }).click();
  await desk.getByRole("button", { name: "Discard draft" }).click();
});

test("a discarded draft comes back whole with Undo, also on a phone", async ({ desk, program }) => {
  const [ada] = await reachable(desk, program.url, "lead");
  await begin(desk, program.url, ada);
  await desk.setViewportSize({ width: 390, height: 800 });
  await typeAtEnd(desk, "\nLast words.");
  const discard = desk.getByRole("button", { name: "Discard draft" });
  await expect(discard).toHaveText(/Discard/);
  await discard.click();
  await expect(desk).toHaveURL(/\/people\/\d+/);
  await desk.getByRole("button", { name: "Undo" }).click();
  await expect(letterOf(desk)).toContainText("Last words.");
  await desk.setViewportSize({ width: 1280, height: 800 });
  await discard.click();
  await desk.getByRole("heading", { level: 1 }).waitFor();
  await desk.goBack();
  await desk.getByRole("button", { name: "Restore the letter" }).click();
  await expect(letterOf(desk)).toContainText("Last words.");
  await discard.click();
});

test("a value corrected at its end, in its middle or after a double click is offered whole", async ({
  desk,
  program,
}) => {
  const [ada] = await reachable(desk, program.url, "lead");
  const url = `${program.url}/api/people/${ada.id}`;
  const first = async () => (await (await desk.request.get(url)).json()).person.firstName as string;
  const was = await first();
  await begin(desk, program.url, ada);
  const word = letterOf(desk).locator("[data-merged='person.first_name']").first();
  const margin = marginOf(desk);
  const save = (words: string) => margin.getByRole("button", { name: `Save “${words}” on the record` });

  // At its end, key by key: the offer follows.
  await word.click();
  await desk.keyboard.press("Home");
  for (const _ of `Dear ${was}`) await desk.keyboard.press("ArrowRight");
  await desk.keyboard.type("lia");
  await expect(save(`${was}lia`)).toBeVisible();
  // In its middle.
  await desk.keyboard.press("ArrowLeft");
  await desk.keyboard.type("-x");
  await expect(save(`${was}li-xa`)).toBeVisible();
  // Replaced after a double click, with an apostrophe and a second word.
  await word.click();
  await desk.keyboard.press("Home");
  for (const _ of "Dear ") await desk.keyboard.press("ArrowRight");
  for (const _ of `${was}li-xa`) await desk.keyboard.press("Shift+ArrowRight");
  await desk.keyboard.type("Dee O'Neil");
  await save("Dee O'Neil").press("Enter");
  await expect(margin).not.toContainText("you wrote");
  expect(await first()).toBe("Dee O'Neil");
  await word.dblclick();
  await desk.keyboard.type("Delia");
  await expect(margin).toContainText(/you wrote/);
  expect(await first()).toBe("Dee O'Neil");
  const now = await (await desk.request.get(url)).json();
  await desk.request.patch(url, { data: { version: now.person.version, set: { "person.first_name": was } } });
  await desk.getByRole("button", { name: "Discard draft" }).click();
});

test("a value that stands for none is typed over, and used as it is only by a press of its own", async ({
  desk,
  program,
}) => {
  const [ada] = await reachable(desk, program.url, "lead");
  const url = `${program.url}/api/people/${ada.id}`;
  const set = async (first_name: string) => {
    const now = await (await desk.request.get(url)).json();
    await desk.request.patch(url, { data: { version: now.person.version, set: { "person.first_name": first_name } } });
  };
  await set("n/a");
  await begin(desk, program.url, ada);
  const margin = marginOf(desk);
  await letterOf(desk).press("Control+Home");
  const input = margin.getByRole("textbox", { name: "First name" });
  const anyway = margin.getByRole("button", { name: /^Use it anyway/ });
  // The input comes before the button for whoever goes on with Tab.
  expect(
    await input.evaluate(
      (el, other) => Boolean(el.compareDocumentPosition(other as Node) & Node.DOCUMENT_POSITION_FOLLOWING),
      await anyway.elementHandle(),
    ),
  ).toBe(true);
  await anyway.click();
  await expect(letterOf(desk)).toContainText("Dear n/a");
  await desk.getByRole("button", { name: "Undo" }).click();
  await expect(input).toBeVisible();
  await input.fill("Ada");
  await input.press("Enter");
  await expect(letterOf(desk)).toContainText("Dear Ada");
  const history = await (await desk.request.get(`${program.url}/api/history?person=${ada.id}`)).text();
  expect(history).toContain("is right as it stands");
  expect(history).toContain("counts as missing again");
  await set(ada.firstName);
  await desk.getByRole("button", { name: "Discard draft" }).click();
});

test("a pasted link of another kind is kept with a red note, and the letter is saved", async ({ desk, program }) => {
  const [ada] = await reachable(desk, program.url, "lead");
  await begin(desk, program.url, ada);
  await desk.getByRole("button", { name: "Format it" }).click();
  await expect(desk.getByRole("toolbar").first()).toBeVisible();
  await letterOf(desk).press("Control+End");
  await letterOf(desk).evaluate((el) => {
    const data = new DataTransfer();
    data.setData(
      "text/html",
      '<p>See <a href="file:///C:/our plan.pdf">the plan</a> and <a href="sms:+44">a text</a>.</p>',
    );
    data.setData("text/plain", "See the plan and a text.");
    el.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
  });
  await desk.keyboard.type(" More.");
  await expect(desk.getByText("Saved", { exact: true })).toBeVisible();
  const margin = marginOf(desk);
  await expect(margin).toContainText("The link “the plan” does not work for your reader");
  await expect(margin).toContainText("The link “a text” does not work for your reader");
  await expect(desk.getByRole("button", { name: /^Send to/ })).toBeHidden();
  await desk.reload();
  await expect(letterOf(desk)).toContainText("the plan and a text. More.");
  await margin.getByRole("button", { name: "Remove the link" }).first().click();
  await expect(margin).not.toContainText("The link “the plan”");
  await margin.getByRole("button", { name: "Remove the link" }).first().click();
  await expect(desk.getByRole("button", { name: /^Send to/ })).toBeEnabled();
  await expect(letterOf(desk)).toContainText("the plan and a text. More.");
  await desk.getByRole("button", { name: "Discard draft" }).click();
});

test("words that could not be saved wait in the browser, and sending waits for them", async ({ desk, program }) => {
  const [ada] = await reachable(desk, program.url, "lead");
  await begin(desk, program.url, ada);
  await expect(desk.getByRole("button", { name: /^Send to/ })).toBeEnabled();
  await desk.route("**/api/letters/*", (route) =>
    route.request().method() === "PUT" ? route.abort() : route.fallback(),
  );
  await typeAtEnd(desk, "\nNot stored anywhere yet.");
  await expect(desk.getByRole("button", { name: "Not saved yet" })).toBeDisabled();
  desk.once("dialog", (d) => d.accept()); // the browser asks whether to leave
  await desk.reload();
  await expect(letterOf(desk)).toContainText("Not stored anywhere yet.");
  await desk.unroute("**/api/letters/*");
  await desk.reload();
  await expect(letterOf(desk)).toContainText("Not stored anywhere yet.");
  await expect(desk.getByText("Saved", { exact: true })).toBeVisible();
  await expect(desk.getByRole("button", { name: /^Send to/ })).toBeEnabled();
  expect(await desk.evaluate(() => Object.keys(localStorage).filter((k) => k.startsWith("letter ")))).toEqual([]);
  await desk.getByRole("button", { name: "Discard draft" }).click();
});

test("drafts and waiting letters stand first in the history, in the list and at w", async ({ desk, program }) => {
  const [ada] = await reachable(desk, program.url, "lead");
  await begin(desk, program.url, ada);
  const at = desk.url();
  await desk.goto(`${program.url}/people/${ada.id}`);
  const open = desk.getByRole("list", { name: "Not sent yet" });
  await expect(open.getByRole("listitem").first()).toContainText(/Draft of \d\d:\d\d/);
  await desk.keyboard.press("w");
  await expect(desk.getByRole("option").first()).toContainText("Go on with the draft of");
  await desk.keyboard.press("Enter");
  await expect(desk).toHaveURL(at);
  await expect(letterOf(desk)).toContainText("Dear");
  await desk.getByRole("button", { name: "When: now" }).click();
  const when = desk.getByRole("dialog", { name: "When it goes" });
  await when.getByLabel(/next working morning/i).check();
  await when.getByRole("button", { name: "Save" }).click();
  await desk.getByRole("button", { name: /^Send to/ }).click();
  await expect(open.getByRole("listitem").first()).toContainText(/Goes .* 09:00/);
  await desk.goto(`${program.url}/people?kind=lead&q=${ada.email}`);
  await expect(desk.getByRole("table", { name: "People" })).toContainText(/Goes .* 09:00/);
  await desk.goto(`${program.url}/people/${ada.id}`);
  await open.getByRole("button").first().click();
  await desk.getByRole("button", { name: "Cancel" }).click();
  await expect(open).toBeHidden();
  await desk.goto(`${program.url}/outbox`);
  await desk
    .getByRole("listitem")
    .filter({ hasText: "Cancelled" })
    .first()
    .getByRole("button", { name: "Write it again" })
    .click();
  await expect(letterOf(desk)).toContainText("Dear");
  await desk.getByRole("button", { name: "Discard draft" }).click();
});

test("a draft tells what changed on the record, and takes it over", async ({ desk, program }) => {
  const [ada] = await reachable(desk, program.url, "lead");
  await begin(desk, program.url, ada);
  const url = `${program.url}/api/people/${ada.id}`;
  const set = async (first_name: string) => {
    const now = await (await desk.request.get(url)).json();
    await desk.request.patch(url, { data: { version: now.person.version, set: { "person.first_name": first_name } } });
  };
  await set("Adela");
  await desk.reload();
  await expect(letterOf(desk)).toContainText(`Dear ${ada.firstName}`);
  const margin = marginOf(desk);
  await expect(margin).toContainText("The record changed since you began this letter.");
  await expect(margin).toContainText(`First name: ${ada.firstName} → Adela`);
  await margin.getByRole("button", { name: "Update the letter" }).press("Enter");
  await expect(letterOf(desk)).toContainText("Dear Adela");
  await expect(margin).not.toContainText("The record changed");
  await set(ada.firstName);
  await desk.getByRole("button", { name: "Discard draft" }).click();
});

test("a search in what was sent", async ({ desk, program }) => {
  await pickTemplate(desk, program.url, "q=bakery&kind=contact", "Three pictures");
  await desk.keyboard.press("Enter");
  await desk.getByRole("button", { name: /^Send to / }).click();
  await expect(desk.getByText("Filed as it was sent")).toBeVisible();
  await desk.goto(`${program.url}/outbox?view=sent`);
  await desk.keyboard.press("/");
  await desk.keyboard.type("three pictures");
  const list = desk.getByRole("list", { name: "Sent letters" });
  await expect(list.getByRole("listitem").first()).toContainText("Three pictures");
  await desk.getByRole("searchbox", { name: "Search sent letters" }).fill("zzz nothing");
  await expect(desk.getByText("No sent letter matches “zzz nothing”.")).toBeVisible();
});
