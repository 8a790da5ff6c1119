import { simpleParser } from "mailparser";
import { arrived, expect, reachable, signIn, test } from "../fixtures.ts";
import { type Program, startProgram } from "../program.ts";

// The clock is moved on, so these have a program of their own.
let program: Program;
test.beforeAll(async () => {
  program = await startProgram();
});
test.afterAll(() => program.stop());

test("a letter is opened and answered, the answer is answered at the desk, and the conversation stays together", async ({
  page,
  browser,
}) => {
  await signIn(page, program.url, "nora@fernhollow.example");
  const [one] = await reachable(page, program.url, "contact");
  // The recipient opens letters and agrees.
  await page.request.put(`${program.url}/api/post-office/${one.email}/character`, { data: { key: "yes" } });
  await page.goto(`${program.url}/people/${one.id}`);
  await page.getByRole("heading", { level: 1 }).waitFor();
  await page.keyboard.press("w");
  await page.getByRole("combobox", { name: "Search templates" }).fill("an empty letter");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "Format it" }).click();
  await page.getByRole("textbox", { name: "Subject" }).fill("The door");
  await page.getByRole("textbox", { name: "Letter" }).click();
  await page.keyboard.press("Control+Home");
  await page.keyboard.type(`Dear ${one.firstName}, shall the door open to the left?`);
  // A document goes as a link that tells whether it was opened.
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "Attach" }).click();
  await page
    .getByRole("button", { name: /^Insert a link to / })
    .first()
    .click();
  await page.getByRole("button", { name: /^Send to / }).click();
  await expect(page.getByText("Filed as it was sent")).toBeVisible();
  const came = page.getByRole("region", { name: "What came back" });
  await expect(came).toContainText("Not opened yet.");

  await page.goto(`${program.url}/post-office/${one.email}`);
  await expect(page.getByRole("combobox", { name: "How this recipient behaves" })).toHaveValue("yes");
  await expect(page.getByRole("list", { name: "What the recipient does" })).toContainText("Going to say yes");
  for (const what of ["an hour", "an hour", "an hour"]) {
    await page.getByRole("button", { name: what }).click();
    await expect(page.getByRole("button", { name: what })).toBeEnabled();
  }
  await expect(page.getByRole("list", { name: "What the recipient does" })).not.toContainText("Going to");

  // The reader follows the link to the document.
  const letter = await arrived(page, program.url, one.email);
  const link = /href="([^"]+\/d\/[^"]+)"/.exec(String(letter.html))?.[1] ?? "";
  const other = await browser.newContext({ userAgent: "Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101" });
  const reader = await other.newPage();
  await reader.goto(link);
  await expect(reader.getByRole("link", { name: /^Open / })).toBeVisible();
  await other.close();

  await page.goto(`${program.url}/today`);
  await expect(page).toHaveTitle(/^\(\d+\) Lucid Letter$/);
  const answers = page.getByRole("region", { name: "Replies" });
  await expect(answers).toContainText("Yes, that suits us.");
  await answers
    .getByRole("link", { name: new RegExp(one.lastName) })
    .first()
    .click();
  const history = page.getByRole("region", { name: "History" });
  await expect(history).toContainText("replied to · document opened once");
  await expect(history.getByRole("button", { name: /Replied .*Re: The door/ })).toHaveAttribute("aria-current", "true");
  await page.getByRole("button", { name: "Reply", exact: true }).click();
  await expect(page.getByRole("textbox", { name: "Subject" })).toHaveText("Re: The door");
  await page.getByRole("textbox", { name: "Letter" }).click();
  await page.keyboard.press("Control+Home");
  await page.keyboard.type("Then Tuesday it is.");
  await page.getByRole("textbox", { name: "Quoted words" }).fill("Yes, that suits us.");
  await page.getByRole("button", { name: /^Send to / }).click();
  await expect(page.getByText("Filed as it was sent")).toBeVisible();
  // An independent reader sees the conversation (npm mailparser, RFC 5322 section 3.6.4).
  const answer = await arrived(page, program.url, one.email);
  expect(answer.subject).toBe("Re: The door");
  expect(answer.references).toContain(letter.messageId);
  expect(answer.inReplyTo).toBe([answer.references ?? []].flat().at(-1));
  expect(answer.text).toContain("> Yes, that suits us.");
  await expect(
    history.getByRole("listitem").filter({ hasText: "Re: The door" }).filter({ hasText: "The door" }).first(),
  ).toBeVisible();

  // One letter as .eml, all of them as .mbox, read by npm mailparser.
  const [saved] = await Promise.all([
    page.waitForEvent("download"),
    page
      .getByRole("button", { name: "More about this person" })
      .click()
      .then(() => page.getByRole("menuitem", { name: /mbox/ }).click()),
  ]);
  const { readFile } = await import("node:fs/promises");
  const mbox = await readFile(await saved.path(), "utf8");
  const mails = await Promise.all(
    mbox
      .split(/^From .*\d{4}\n/m)
      .slice(1)
      .map((m) => simpleParser(m)),
  );
  expect(mails.slice(-3).map((m) => m.subject)).toEqual(["The door", "Re: The door", "Re: The door"]);
  const eml = await page.request.get(
    `${program.url}${await page.getByRole("link", { name: "Save as .eml" }).getAttribute("href")}`,
  );
  expect((await simpleParser(Buffer.from(await eml.body()))).messageId).toBe(answer.messageId);
});

test("what a machine opened is told apart, a plain letter is not measured, an address that is gone stops the next letter", async ({
  page,
}) => {
  await signIn(page, program.url, "celia@fernhollow.example");
  const [, one] = await reachable(page, program.url, "lead");
  const write = async (subject: string, formatted: boolean) => {
    await page.goto(`${program.url}/people/${one.id}`);
    await page.getByRole("heading", { level: 1 }).waitFor();
    await page.keyboard.press("w");
    await page.getByRole("combobox", { name: "Search templates" }).fill("an empty letter");
    await page.keyboard.press("Enter");
    if (formatted) await page.getByRole("button", { name: "Format it" }).click();
    await page.getByRole("textbox", { name: "Subject" }).fill(subject);
    await page.getByRole("textbox", { name: "Letter" }).click();
    await page.keyboard.press("Control+Home");
    await page.keyboard.type("Hello, only a word.");
  };
  const character = (key: string) =>
    page.request.put(`${program.url}/api/post-office/${one.email}/character`, { data: { key } });
  const anHour = () => page.request.post(`${program.url}/api/post-office-world/clock`, { data: { minutes: 60 } });
  const back = page.getByRole("region", { name: "What came back" });
  await character("proxy");
  await write("Seen by a proxy", true);
  await page.getByRole("button", { name: /^Send to / }).click();
  await expect(page.getByText("Filed as it was sent")).toBeVisible();
  await anHour();
  await page.reload();
  await expect(back).toContainText("Not opened yet.");
  await expect(back).toContainText("Fetched once by a machine");

  await character("returns");
  await write("In plain words", false);
  await page.getByRole("button", { name: /^Send to / }).click();
  await expect(back).toContainText("Opens not tracked.");
  await anHour();
  await page.reload();
  await expect(back).toContainText("Bounced");
  await expect(page.getByText(/^Letters to .* came back on/)).toContainText("The address does not exist");
  await write("Again", false);
  await expect(page.getByRole("complementary", { name: "Margin notes" })).toContainText("bounced on");
  await page.getByRole("button", { name: "Discard draft" }).click();
  await page.goto(`${program.url}/people/${one.id}`);
  await page.getByRole("button", { name: "It works again" }).click();
  await expect(page.getByText(/^Letters to .* came back on/)).toBeHidden();

  // A letter that waits gets another time, and is cancelled; its way is told.
  await character("full");
  await write("To a full mailbox", false);
  await page.getByRole("button", { name: /^Send to / }).click();
  await page.waitForURL(/letter=\d+/);
  await page.goto(`${program.url}/outbox`);
  const line = page.getByRole("listitem").filter({ hasText: "To a full mailbox" });
  await expect(line).toContainText("The mailbox is full");
  await line.getByText("Delivery details").click();
  await expect(line.getByRole("list", { name: "Steps" })).toContainText("Handed to the mail server");
  const next = new Date(Date.now() + 40 * 24 * 3600 * 1000);
  await line.getByRole("button", { name: "Change time" }).click();
  await page.getByLabel("In my time zone").fill(`${next.toISOString().slice(0, 10)}T09:00`);
  await page.getByRole("button", { name: "At this time" }).click();
  await expect(line).toContainText(`goes ${next.getUTCDate()} `);
  await line.getByRole("button", { name: "Cancel" }).click();
  await expect(line).toContainText("Cancelled");
});
