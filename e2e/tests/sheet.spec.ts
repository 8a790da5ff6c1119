import { readFileSync } from "node:fs";
import { resolve } from "node:path";
import AxeBuilder from "@axe-core/playwright";
import type { Page } from "@playwright/test";
import { expect, signIn, switchTo, test } from "../fixtures.ts";

const layouts = resolve(import.meta.dirname, "../../core/interchange/testdata/layouts");

const make = async (page: Page, url: string, wording: object) => {
  const made = await page.request.post(`${url}/api/templates`, {
    data: { whenToUse: "", subject: "s", body: "b", state: "ready", ...wording },
  });
  return (await made.json()) as { id: number; version: number };
};

test("a formatted template with a chip, a blank, an only-when and fixed wording is written by keyboard alone", async ({
  page,
  program,
}) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  await page.goto(`${program.url}/templates/new`);
  await page.getByRole("textbox", { name: "Name" }).focus();
  await page.keyboard.type("By keyboard");
  await page.getByRole("button", { name: "Format it" }).press("Enter");
  await expect(page.getByRole("toolbar", { name: "Formatting" })).toBeVisible();
  const subject = page.getByRole("textbox", { name: "Subject" });
  await subject.focus();
  await page.keyboard.type("For {");
  await page.keyboard.type("first name");
  await page.keyboard.press("Enter");
  await expect(subject.getByRole("img", { name: "merge field: First name" })).toBeVisible();
  await page.keyboard.press("Enter"); // on to the letter
  const body = page.getByRole("textbox", { name: "Letter" });
  await expect(body).toBeFocused();
  await page.keyboard.press("Control+a");
  await page.keyboard.press("Backspace");
  await page.keyboard.type("Dear {");
  await page.keyboard.type("first name");
  await page.keyboard.press("Enter");
  await page.keyboard.type(",");
  await page.keyboard.press("Enter");
  const put = async (what: string) => {
    await page.keyboard.type("/");
    await expect(page.getByRole("searchbox", { name: "Search what to insert" })).toBeFocused();
    await page.keyboard.type(what);
    await page.keyboard.press("Enter"); // what is typed at once goes behind it
  };
  await put("blank");
  await expect(body.getByRole("img", { name: "blank: words" })).toBeVisible();
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("Enter");
  await put("only when");
  await page.keyboard.type("From your city.");
  await expect(body.getByText("Only when City is filled")).toBeVisible();
  await page.keyboard.press("Enter");
  await page.keyboard.press("Enter"); // out of the only-when
  await put("fixed");
  await page.keyboard.type("As our lawyers wrote it.");
  await page.keyboard.press("Enter");
  await page.keyboard.press("Enter");
  await put("survey");
  await expect(body.getByRole("img", { name: "passage: survey" })).toBeVisible();
  await page.keyboard.press("Control+Enter");
  await expect(page.getByText("Draft: nobody can use it")).toBeVisible();
  const id = Number(page.url().split("/").at(-1));
  const stored = await (await page.request.get(`${program.url}/api/templates/${id}`)).json();
  expect(stored.subject).toBe("For {{person.first_name}}");
  for (const part of [
    "Dear {{person.first_name}},",
    "{{?words: text}}",
    "{{#person.city}}\n<p>From your city.",
    "{{fixed}}\n<p>As our lawyers wrote it.",
    "{{>survey}}",
  ])
    expect(stored.body).toContain(part);
  await page.getByText("Try on a person").click();
  await expect(page.frameLocator("iframe[title='The letter']").getByText("A survey takes an hour")).toBeVisible();
});

test("a page is brought in as its designer made it, fields go into its words and links, and it stays responsive", async ({
  page,
  program,
}) => {
  test.setTimeout(90_000);
  await signIn(page, program.url, "greta@fernhollow.example");
  for (const [name, words] of [
    ["workshop.html", "How three degrees are kept through a night."],
    ["offer.html", "Anything open?"],
    ["season.html", "is the room ready?"],
  ] as const) {
    await page.goto(`${program.url}/templates/new`);
    await page.getByRole("textbox", { name: "Name" }).fill(`Page ${name}`);
    await page.getByRole("button", { name: "Import" }).click();
    await page.getByLabel("A file:").setInputFiles(resolve(layouts, name));
    const rest = page.getByRole("button", { name: "Import the rest" });
    const frame = page.frameLocator("iframe[title='The page']");
    const found = frame.locator("[data-part]").filter({ hasText: words }).first();
    const page_ = page.locator("iframe[title='The page']");
    await expect.poll(async () => (await rest.count()) + (await page_.count())).toBeGreaterThan(0);
    if (await rest.isVisible()) {
      await expect(page.getByText("Letters can’t contain this")).toBeVisible();
      await rest.click();
    }
    await found.click();
    const note = page.getByRole("complementary").getByRole("textbox", { name: "Words" });
    await note.press("Control+End");
    await page.keyboard.type(" For {{person.first_name|you}}");
    await expect(frame.locator("[data-part]").filter({ hasText: words }).first()).toContainText("For ‹First name›");
    await page.getByRole("button", { name: "Save as draft" }).click();
    await expect(page.getByText("Draft: nobody can use it")).toBeVisible();
    const id = Number(page.url().split("/").at(-1));
    const stored = await (await page.request.get(`${program.url}/api/templates/${id}`)).json();
    expect(stored.body).toContain(" For {{person.first_name|you}}");
    // As the source has them: style rules for phones, tables.
    const source = readFileSync(resolve(layouts, name), "utf8");
    expect(stored.body.match(/@media/g)?.length).toBe(source.match(/@media/g)?.length);
    expect(stored.body.match(/<table/g)?.length).toBe(source.match(/<table/g)?.length);
    await page.getByText("Try on a person").click();
    await page.getByText("Phone", { exact: true }).click();
    const phone = page.locator("iframe[title='The letter']");
    await expect(phone).toBeVisible();
    await expect(phone.contentFrame().locator("body")).toContainText("For");
    const wide = await phone
      .contentFrame()
      .locator("html")
      .evaluate((el) => el.scrollWidth - el.clientWidth);
    expect(wide, `${name} on a phone`).toBeLessThanOrEqual(1);
    expect((await phone.boundingBox())?.width, `${name} as wide as a phone`).toBe(390);
  }
});

test("bad pages, files and pictures are refused with a word, and nothing is lost", async ({ page, program }) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  await page.goto(`${program.url}/templates/new`);
  await page.getByRole("textbox", { name: "Name" }).fill("Stays");
  const alert = page.getByRole("dialog").getByRole("alert");
  const file = async (name: string, buffer: Buffer | string) =>
    page.getByLabel("A file:").setInputFiles({ name, mimeType: "text/plain", buffer: Buffer.from(buffer) });
  await page.getByRole("button", { name: "Import" }).click();
  await file("large.html", Buffer.alloc(6.5 * 1024 * 1024, "x"));
  await expect(alert).toContainText("larger than 6 MiB");
  await file(
    "only.eml",
    "From: a@b.example\r\nContent-Type: multipart/mixed; boundary=x\r\n\r\n--x\r\nContent-Type: application/pdf\r\nContent-Disposition: attachment; filename=a.pdf\r\n\r\npdf\r\n--x--\r\n",
  );
  await expect(alert).toContainText("holds no words, only 1 attachments");
  await page
    .getByRole("textbox", { name: "Or paste the HTML of a page" })
    .fill("<form><input></form><frameset><frame></frameset><p>Hello</p>");
  await page.getByRole("button", { name: "Import the page" }).click();
  await expect(page.getByRole("listitem").filter({ hasText: "<form>" })).toBeVisible();
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "Close without saving" }).click();
  await expect(page.getByRole("textbox", { name: "Name" })).toHaveValue("Stays");

  await page.getByRole("button", { name: "Format it" }).click();
  await page.getByRole("button", { name: "Picture" }).click();
  await page.getByLabel("A file: PNG").setInputFiles({
    name: "evil.png",
    mimeType: "image/png",
    buffer: Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>'),
  });
  await page.getByLabel("Alternative text").fill("A room");
  await page.getByRole("button", { name: "Insert" }).click();
  await expect(alert).toContainText("no picture of the kinds PNG, JPEG, GIF or WebP");
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "Close without saving" }).click();
  const body = page.getByRole("textbox", { name: "Letter" });
  await body.focus();
  await body.evaluate((el) => {
    const data = new DataTransfer();
    data.setData("text/plain", "x".repeat(6 * 1024 * 1024));
    el.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
  });
  await expect(page.getByText("Nothing was pasted.")).toBeVisible();
  await expect(body).toContainText("Dear");
});

test("what is pasted from a text program comes clean, with its lists and paragraphs", async ({ page, program }) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  await page.goto(`${program.url}/templates/new`);
  await page.getByRole("button", { name: "Format it" }).click();
  await expect(page.getByRole("button", { name: "Bold" })).toBeVisible();
  const body = page.getByRole("textbox", { name: "Letter" });
  await body.focus();
  await page.keyboard.press("Control+a");
  await body.evaluate((el) => {
    const data = new DataTransfer();
    data.setData(
      "text/html",
      `<html><head><style>p.MsoNormal{margin:0;font-family:Odd}</style></head><body><!--StartFragment--><p class=MsoNormal style='color:red;font-family:Odd'>Dear <b style='font-weight:bold'>all</b>,<o:p></o:p></p><p class=MsoNormal>&nbsp;</p><div>one<br><br>two<br>three</div><p class=MsoListParagraph>·&nbsp;&nbsp; first</p><p class=MsoListParagraph>·&nbsp;&nbsp; second</p><script>alert(1)</script></body></html>`,
    );
    el.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
  });
  await expect(body.getByRole("listitem")).toHaveText(["first", "second"]);
  await expect(body.locator("strong")).toHaveText("all");
  await expect(body.locator("p").filter({ hasText: /^one$/ })).toHaveCount(1);
  const html = await body.innerHTML();
  expect(html).not.toMatch(/Odd|Mso|red|alert/);
});

test("an own copy follows its original: what changed there is seen by paragraph and taken over", async ({
  page,
  program,
}) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  const original = await make(page, program.url, {
    name: "House letter",
    subject: "From our house",
    body: "Dear {{person.first_name|you}},\n\nwe are open on Mondays.\n\nKind regards",
  });
  await switchTo(page, program.url, "imre@fernhollow.example");
  await page.goto(`${program.url}/templates/${original.id}`);
  await page.getByRole("button", { name: "Make my own copy" }).click();
  await expect(page.getByText("A copy of “House letter”.")).toBeVisible();
  const copy = Number(page.url().split("/").at(-1));
  const body = page.getByRole("textbox", { name: "Letter" });
  await body.getByText("Kind regards").click();
  await page.keyboard.press("End");
  await page.keyboard.type(", yours");
  await page.getByRole("button", { name: "Make ready" }).click();
  await expect(page.getByText("Version 2.")).toBeVisible();

  await switchTo(page, program.url, "greta@fernhollow.example");
  await page.request.put(`${program.url}/api/templates/${original.id}`, {
    data: {
      name: "House letter",
      whenToUse: "",
      subject: "From our house",
      body: "Dear {{person.first_name|you}},\n\nwe are open on Mondays and Tuesdays.\n\nKind regards from all of us",
      state: "ready",
      version: 1,
    },
  });
  await switchTo(page, program.url, "imre@fernhollow.example");
  await page.goto(`${program.url}/templates/${copy}`);
  await expect(page.getByText("has changed since you last looked")).toBeVisible();
  await page.getByRole("button", { name: "See what changed" }).click();
  const dialog = page.getByRole("dialog");
  await expect(dialog.getByRole("insertion").first()).toHaveText(/and Tuesdays/);
  await expect(dialog.getByText("You changed this place too")).toBeVisible();
  await expect(dialog.getByRole("checkbox", { name: "Apply: Change 1" })).toBeChecked();
  await expect(dialog.getByRole("checkbox", { name: "Apply: Change 2" })).not.toBeChecked();
  await dialog.getByRole("button", { name: "Apply the selected changes" }).click();
  await expect(body).toContainText("we are open on Mondays and Tuesdays.");
  await expect(body).toContainText("Kind regards, yours");
  await expect(page.getByText("A copy of “House letter”.")).toBeVisible();
});

test("the text part is taken over by hand, and says when the letter has moved on", async ({ page, program }) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  const { id } = await make(page, program.url, {
    name: "Two forms",
    kind: "formatted",
    body: "<p>Dear {{person.first_name|you}}</p><p>end</p>",
  });
  await page.goto(`${program.url}/templates/${id}`);
  await page.getByText("Text part", { exact: true }).click();
  const part = page.getByRole("region", { name: "Plain-text part" });
  await expect(part).toContainText("Dear {{person.first_name|you}}");
  await part.getByRole("button", { name: "Write it by hand" }).click();
  await part.getByRole("textbox", { name: "Plain-text part" }).fill("Hello {{person.first_name|you}}, in plain words.");
  await page.getByText("Wording", { exact: true }).click();
  await page.getByRole("textbox", { name: "Letter" }).getByText("end").click();
  await page.keyboard.type(" now ");
  await page.getByText("Text part", { exact: true }).click();
  await expect(part.getByRole("alert")).toContainText("The letter was changed since this was written");
  await part.getByRole("button", { name: "It still fits" }).click();
  await expect(part.getByRole("alert")).toHaveCount(0);
  await page.getByRole("button", { name: "Save new version" }).click();
  await expect(page.getByText("Version 2.")).toBeVisible();
  await page.getByText("Try on a person").click();
  const tried = page.getByRole("region", { name: "Tried on" });
  await tried.getByText("Text", { exact: true }).click();
  await expect(tried).toContainText("in plain words.");
  await page.getByRole("button", { name: "Send it to me" }).click();
  await expect(page.getByText(/^Sent to you as /)).toBeVisible();
  await page.goto(`${program.url}/post-office/greta@fernhollow.example`);
  await expect(page.getByRole("article")).toContainText("Test: s");
});

test("ten notes stand in the margin beside their lines, and below the sheet on a phone", async ({ page, program }) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  await page.goto(`${program.url}/templates/new`);
  const body = page.getByRole("textbox", { name: "Letter" });
  await body.fill(Array.from({ length: 10 }, (_, i) => `Line ${i + 1} {{person.nickname${i}}}`).join("\n"));
  const margin = page.getByRole("complementary", { name: "Margin notes" });
  const notes = margin.getByText(/^There is no field person.nickname/);
  await expect(notes).toHaveCount(10);
  const boxes = await Promise.all((await notes.all()).map((n) => n.boundingBox()));
  const sheet = await body.boundingBox();
  for (const [i, box] of boxes.entries()) {
    if (!box || !sheet) throw new Error("not on the screen");
    expect(box.x).toBeGreaterThan(sheet.x + sheet.width);
    if (i > 0) expect(box.y).toBeGreaterThanOrEqual((boxes[i - 1]?.y ?? 0) + (boxes[i - 1]?.height ?? 0));
  }
  await page.setViewportSize({ width: 390, height: 844 });
  await expect.poll(async () => (await notes.first().boundingBox())?.x ?? 999).toBeLessThan(60);
  const wide = await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
  expect(wide).toBeLessThanOrEqual(0);
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.filter((v) => v.impact === "serious" || v.impact === "critical")).toEqual([]);
});
