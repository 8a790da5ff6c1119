import type { Page } from "@playwright/test";
import { arrived, expect, hold, reachable, test } from "../fixtures.ts";

/** A contact whom a template about a deal fits, on the screen. */
async function contactWithDeal(page: Page, url: string): Promise<number> {
  const contacts = await page.request.get(`${url}/api/people?kind=contact&sort=last&down=true&limit=60`);
  for (const { id } of (await contacts.json()).people as { id: number }[]) {
    const choices = await (await page.request.get(`${url}/api/people/${id}/templates`)).json();
    if (choices.some((c: { name: string; fits: boolean }) => c.name === "Quote delivered" && c.fits)) return id;
  }
  throw new Error("nobody");
}

async function write(page: Page, url: string, template: string): Promise<void> {
  await page.goto(`${url}/people/${await contactWithDeal(page, url)}`);
  await page.getByRole("heading", { level: 1 }).waitFor();
  await page.keyboard.press("w");
  await page.getByRole("combobox", { name: "Search templates" }).fill(template);
  await page.keyboard.press("Enter");
  await expect(page.getByRole("textbox", { name: "Letter" })).toContainText("Dear");
}

test("from the people list to sent by keyboard alone, in under 25 keys besides the words", async ({
  desk,
  program,
}) => {
  let keys = 0;
  const press = async (key: string) => {
    keys++;
    await desk.keyboard.press(key);
  };
  await desk.goto(`${program.url}/people?kind=contact`);
  await expect(desk.getByRole("table", { name: "People" }).getByRole("row").nth(3)).toBeVisible();
  await press("/");
  await desk.keyboard.type("patisserie");
  await press("Enter"); // at once: it opens what was typed, not what the list showed before
  await expect(desk.getByRole("heading", { level: 1 })).not.toHaveText("People");
  await expect(desk.getByRole("main")).toContainText(/Patisserie/);
  await desk.getByRole("button", { name: /^Write to/ }).waitFor();
  await press("w");
  await desk.keyboard.type("invitation to the open workshop");
  await expect(desk.getByRole("region", { name: "Preview" })).toContainText("Dear");
  await press("Enter");
  await expect(desk.getByRole("textbox", { name: "Letter" })).toContainText("Dear");
  await expect(desk.getByRole("button", { name: /^Send to / })).toBeEnabled();
  await press("Control+Enter"); // shows the proof
  await expect(
    desk.getByRole("dialog", { name: /^Proof for/ }).getByRole("button", { name: /^Send to / }),
  ).toBeVisible();
  await press("Control+Enter");
  await expect(desk.getByText("Filed as it was sent")).toBeVisible();
  expect(keys).toBeLessThan(25);
});

test("copies are completed, pasted in five styles, and arrive as the proof says", async ({ desk, program }) => {
  await write(desk, program.url, "quote delivered");
  await desk.getByRole("button", { name: "Copies" }).click();
  const dialog = desk.getByRole("dialog", { name: "Copies" });
  await dialog.getByRole("combobox", { name: "Cc", exact: true }).pressSequentially("greta h");
  await expect(dialog.getByRole("option", { name: /Greta Holm/ })).toBeVisible();
  await desk.keyboard.press("Enter");
  const bcc = dialog.getByRole("combobox", { name: /^Bcc/ });
  await bcc.fill("Ada Quill <ada@quill.example>, bo@ohm.example; Cy (cy@wye.example); nobody");
  await bcc.press("Enter");
  await expect(dialog.getByRole("alert")).toContainText("isn’t an email address");
  await expect(bcc).toHaveValue("nobody");
  await bcc.fill("dee@zed.example - Dee Zed");
  await bcc.press("Enter");
  await bcc.fill("Fen, Flo <flo@fen.example>");
  await bcc.press("Enter");
  await expect(dialog.getByText("Flo Fen")).toBeVisible(); // and nobody who was suggested instead
  // What is typed last goes along without Enter; what is no address is said and keeps the dialog.
  const cc = dialog.getByRole("combobox", { name: "Cc", exact: true });
  await cc.fill("not an address");
  await desk.keyboard.press("Control+Enter");
  await expect(dialog.getByRole("alert")).toContainText("isn’t an email address");
  await cc.fill("");
  await dialog.getByRole("textbox", { name: "Reply to" }).fill("offers@fernhollow.example");
  await dialog.getByRole("button", { name: "Save" }).click();
  await expect(desk.getByRole("button", { name: "Copies: 6" })).toBeVisible();
  await desk.getByRole("button", { name: "Proof" }).click();
  const proof = desk.getByRole("dialog", { name: /^Proof for/ });
  await expect(proof.getByText("Greta Holm")).toBeVisible(); // the Cc
  await proof.getByText("Dark", { exact: true }).click();
  await expect(proof.locator("[data-theme=dark]")).toContainText("Dear");
  const words = await proof.getByRole("article").or(proof.locator(".letter-text")).first().textContent();
  await proof.getByRole("button", { name: /^Send to .*, Cc 1, Bcc 5$/ }).click();
  await expect(desk.getByText("Filed as it was sent")).toBeVisible();
  for (const box of ["greta@fernhollow.example", "flo@fen.example"]) {
    const read = await arrived(desk, program.url, box);
    expect(read.cc).toMatchObject({ value: [{ name: "Greta Holm", address: "greta@fernhollow.example" }] });
    expect(read.bcc).toBeUndefined();
    expect(read.replyTo).toMatchObject({ value: [{ address: "offers@fernhollow.example" }] });
    expect(words).toContain((read.text ?? "").trim().split("\n")[0]);
  }
});

test("files from the computer and the shelf go along, and a missing one is spoken of", async ({ desk, program }) => {
  await write(desk, program.url, "quote delivered");
  const body = desk.getByRole("textbox", { name: "Letter" });
  await body.press("Control+End");
  await desk.keyboard.type("\nThe drawing is attached.");
  await expect(desk.getByRole("complementary")).toContainText("nothing is attached");
  await desk.getByRole("button", { name: "Attach", exact: true }).click();
  const dialog = desk.getByRole("dialog", { name: "Attachments" });
  await dialog.getByLabel("From this computer").setInputFiles([
    { name: "drawing.txt", mimeType: "text/plain", buffer: Buffer.from("12 m³") },
    { name: "empty.txt", mimeType: "text/plain", buffer: Buffer.alloc(0) },
    { name: "huge.bin", mimeType: "application/octet-stream", buffer: Buffer.alloc(16 << 20) },
  ]);
  await expect(dialog.getByRole("list", { name: "Attached" })).toContainText("drawing.txt");
  await expect(dialog.getByText(/^empty\.txt: .*is empty/)).toBeVisible();
  await expect(dialog.getByText(/^huge\.bin: /)).toBeVisible();
  await dialog.getByRole("button", { name: "Attach Terms of delivery" }).click();
  await expect(dialog.getByRole("list", { name: "Attached" })).toContainText("version 1");
  await dialog.getByRole("button", { name: "Done" }).click();
  await expect(desk.getByRole("button", { name: /^2 files, \d+ KB$/ })).toBeVisible();
  await expect(desk.getByRole("complementary")).not.toContainText("nothing is attached");
  const to = /<(.*)>/.exec((await desk.getByText(/^To /).textContent()) ?? "")?.[1] ?? "";
  await desk.getByRole("button", { name: /^Send to / }).click();
  await expect(desk.getByText("Filed as it was sent")).toBeVisible();
  const read = await arrived(desk, program.url, to);
  expect(read.attachments.map((a) => a.filename).sort()).toEqual(["drawing.txt", "terms.pdf"]);
  expect(read.attachments.find((a) => a.filename === "drawing.txt")?.content.toString()).toBe("12 m³");
});

test("sending is held, taken back with one key from another screen, and then goes", async ({ desk, program }) => {
  await hold(desk, program.url, 60);
  await write(desk, program.url, "quote delivered");
  await desk.getByRole("textbox", { name: "Letter" }).press("Control+End");
  await desk.keyboard.type("\nP.S. Soon.");
  await expect(desk.getByText("Saved", { exact: true })).toBeVisible();
  await desk.getByRole("button", { name: /^Send to / }).click();
  const going = desk.getByRole("region", { name: "Going" });
  await expect(going).toContainText(/goes in \d+ s/);
  // Closing the window changes nothing.
  await desk.goto(`${program.url}/templates`);
  await expect(going).toBeVisible();
  await desk.keyboard.press("b");
  await expect(desk).toHaveURL(/\/letters\/\d+/);
  await expect(desk.getByRole("textbox", { name: "Letter" })).toContainText("P.S. Soon.");
  await expect(going).toBeHidden();
  await hold(desk, program.url, 2);
  await desk.getByRole("button", { name: /^Send to / }).click();
  await expect(going).toBeVisible();
  await expect(going).toBeHidden();
  await expect(desk.getByText("Filed as it was sent")).toBeVisible();
});

test("a letter waits for the next working morning of its reader, or for a time on a clock", async ({
  desk,
  program,
}) => {
  await write(desk, program.url, "quote delivered");
  await desk.getByRole("button", { name: "When: now" }).click();
  const dialog = desk.getByRole("dialog", { name: "When it goes" });
  await dialog.getByLabel("At a time").check();
  await dialog.getByRole("button", { name: "Save" }).click();
  await expect(dialog.getByRole("alert")).toContainText("The time is missing");
  await dialog.getByLabel("Date and time").fill("2020-01-01T09:00");
  await dialog.getByRole("button", { name: "Save" }).click();
  await desk.getByRole("button", { name: /^Send to .* 09:00/ }).click();
  await expect(desk.getByText("is over; choose a later time")).toBeVisible();
  await desk.getByRole("button", { name: "When: later" }).click();
  await dialog.getByLabel("Next working morning").check();
  await dialog.getByRole("button", { name: "Save" }).click();
  await desk.getByRole("button", { name: /^Send to .*, \w{3},? \d+ \w+, 09:00 in / }).click();
  await expect(desk.getByText(/^Waiting to go/).first()).toBeVisible();
  await desk.getByRole("button", { name: "Take back" }).click();
  await expect(desk.getByRole("textbox", { name: "Letter" })).toBeVisible();
});

test("templates and passages go in at the cursor and are taken out and swapped, keeping what was written", async ({
  desk,
  program,
}) => {
  await write(desk, program.url, "invitation to the open workshop");
  const body = desk.getByRole("textbox", { name: "Letter" });
  await body.press("Control+End");
  await desk.keyboard.type("\nMine stays. hours");
  await desk.keyboard.press("Tab");
  await expect(body).toContainText("Mine stays. The workshop is open");
  await desk.keyboard.press("Enter");
  await desk.keyboard.type("/");
  const picker = desk.getByRole("dialog", { name: "Insert into the letter" });
  await picker.getByRole("combobox").fill("briefing before the survey");
  await expect(picker.getByRole("button", { name: "Start again with this" })).toBeVisible();
  await desk.keyboard.press("Enter");
  await expect(body).toContainText("We won't drill");
  const margin = desk.getByRole("complementary");
  await expect(margin).toContainText("Surveyor is for you to fill in");
  await expect(desk.getByRole("button", { name: "Missing: Surveyor" })).toBeVisible();

  await margin.getByRole("button", { name: "Replace Briefing before the survey" }).click();
  await desk.getByRole("dialog").getByRole("combobox").fill("asking for a review");
  await expect(desk.getByRole("dialog").getByRole("option").first()).toContainText("Asking for a review");
  await desk.keyboard.press("Enter");
  await expect(body).not.toContainText("We won't drill");
  await expect(margin).toContainText("Asking for a review");
  await margin
    .getByRole("button", { name: /^Remove Opening hours|^Remove .*workshop/i })
    .first()
    .click();
  await expect(body).not.toContainText("The workshop is open on working days");
  await expect(body).toContainText("Mine stays.");
  await expect(body).toContainText("Dear");

  await desk.getByRole("button", { name: "Insert" }).click();
  await picker.getByRole("combobox").fill("invitation with programme");
  await picker.getByRole("button", { name: "Start again with this" }).click();
  await expect(body).not.toContainText("Mine stays.");
  await expect(body.getByText("Save me a place")).toBeVisible();
});

test("advice stands beside its line with its reason, stops nothing and can be waved away", async ({
  desk,
  program,
}) => {
  const leads = await (await desk.request.get(`${program.url}/api/people?kind=lead&limit=500`)).json();
  const { id } = leads.people.find(
    (p: { email: string; lastLetter?: string; optedOut: boolean }) => p.email && !p.lastLetter && !p.optedOut,
  );
  const draft = await desk.request.post(`${program.url}/api/letters`, { data: { personId: id } });
  await desk.goto(`${program.url}/letters/${(await draft.json()).id}`);
  const subject = desk.getByRole("textbox", { name: "Subject" });
  await subject.fill("Re: everything that you ever wanted to know about cold rooms and their doors");
  await desk.getByRole("textbox", { name: "Letter" }).fill("Dear Nobodyson,\n\nGREAT PRICES NOW! Click here!");
  const margin = desk.getByRole("complementary");
  for (const words of [
    "phones cut it after about 60",
    "stands before the subject of a first letter",
    "The greeting says “Nobodyson”",
    "words in capitals",
    "2 exclamation marks",
    "“click here” is a phrase that mail filters know",
  ])
    await expect(margin).toContainText(words);
  await expect(desk.getByRole("button", { name: /^Send to / })).toBeEnabled();
  await margin.getByRole("button", { name: /Why.*words in capitals/ }).click();
  await expect(margin).toContainText("read like shouting. (common practice, no source)");
  await margin.getByRole("button", { name: /Dismiss.*words in capitals/ }).click();
  await expect(margin).not.toContainText("words in capitals");
});

test("a letter becomes a template: what came from fields is a field again, other values are offered", async ({
  desk,
  program,
}) => {
  await write(desk, program.url, "invitation to the open workshop");
  const name = (await desk.getByText(/^To /).textContent())?.replace(/^To\s+/, "").replace(/\s+<.*$/, "") ?? "";
  const last = name.split(" ").at(-1) ?? "";
  await desk.getByRole("textbox", { name: "Letter" }).press("Control+End");
  await desk.keyboard.type(`\nFor the house of ${last}.`);
  await desk.getByRole("button", { name: "Save as template" }).click();
  const dialog = desk.getByRole("dialog", { name: "Save this letter as a template" });
  const made = dialog.getByRole("region", { name: "The template" });
  await expect(made).toContainText("{{person.first_name}}");
  await expect(made).toContainText(`house of ${last}.`);
  await dialog.getByRole("checkbox", { name: /Last name/ }).check();
  await expect(made).toContainText("house of {{person.last_name}}.");
  await dialog.getByRole("button", { name: "Save as template" }).click();
  await expect(dialog.getByRole("alert")).toContainText("name");
  await dialog.getByRole("textbox", { name: "Name" }).fill("Written by hand before");
  await dialog.getByRole("button", { name: "Save as template" }).click();
  await desk.getByRole("button", { name: "Open it" }).click();
  await expect(desk.getByRole("textbox", { name: "Name" })).toHaveValue("Written by hand before");
  await expect(desk.getByRole("textbox", { name: "Letter" })).toContainText("house of {{person.last_name}}.");
  await expect(desk.getByText("Draft: nobody can use it")).toBeVisible();
});

test("an address that is known finds its person, an unknown one becomes a lead who is written to", async ({
  desk,
  program,
}) => {
  const people = await (await desk.request.get(`${program.url}/api/people?kind=lead&limit=50`)).json();
  const known = people.people.find((p: { email: string; lastName: string }) => p.email && p.lastName);
  await desk.goto(`${program.url}/templates`);
  await desk.getByRole("heading", { name: "Templates" }).waitFor();
  await desk.keyboard.press("w");
  const find = desk.getByRole("dialog", { name: "Write to" });
  await find.getByRole("combobox").fill(known.email);
  await expect(find.getByRole("option").first()).toContainText(known.lastName);
  await find.getByRole("combobox").fill("Nora Newly <nora@newly.example>");
  await expect(find.getByRole("option")).toContainText("Add this address as a lead");
  await desk.keyboard.press("Enter");
  await expect(desk.getByRole("dialog", { name: "Write to Nora Newly" }).getByRole("combobox")).toBeVisible();
});

test("a plain letter takes emoji, and is formatted with what was written in it", async ({ desk, program }) => {
  await write(desk, program.url, "quote delivered");
  const body = desk.getByRole("textbox", { name: "Letter" });
  await body.press("Control+End");
  await desk.getByRole("button", { name: "Emoji" }).click();
  await desk.getByRole("button", { name: "thanks" }).click();
  await expect(body).toContainText("🙏");
  await expect(desk.getByText("Saved", { exact: true })).toBeVisible();
  await desk.getByRole("button", { name: "Format it" }).click();
  await expect(desk.getByRole("button", { name: "Bold" })).toBeVisible();
  await expect(body).toContainText("🙏");
  const to = /<(.*)>/.exec((await desk.getByText(/^To /).textContent()) ?? "")?.[1] ?? "";
  await desk.getByRole("button", { name: /^Send to / }).click();
  await expect(desk.getByText("Filed as it was sent")).toBeVisible();
  const read = await arrived(desk, program.url, to);
  expect(read.html).toContain("🙏");
  expect(read.text).toContain("🙏");
});

test("formatting is taken back with one press, but never what was written since", async ({ desk, program }) => {
  const [lead] = await reachable(desk, program.url, "lead");
  const made = await desk.request.post(`${program.url}/api/letters`, { data: { personId: lead.id } });
  const { id } = await made.json();
  await desk.goto(`${program.url}/letters/${id}`);
  const letter = desk.getByRole("textbox", { name: "Letter" });
  const toolbar = desk.getByRole("toolbar", { name: "Formatting" });
  const undo = desk
    .getByRole("listitem")
    .filter({ hasText: "The letter is formatted." })
    .getByRole("button", { name: "Undo" });
  await letter.click();
  await desk.keyboard.press("Control+Home");
  await desk.keyboard.type("It's plain. ");
  await desk.getByRole("button", { name: "Format it" }).click();
  await expect(toolbar).toBeVisible();
  await undo.click();
  await expect(toolbar).toHaveCount(0);
  await expect(letter).toContainText("It's plain.");
  await desk.getByRole("button", { name: "Format it" }).click();
  await expect(toolbar).toBeVisible();
  await letter.click();
  await desk.keyboard.type("And more.");
  await undo.click();
  await expect(desk.getByText("You have gone on writing")).toBeVisible();
  await expect(letter).toContainText("And more.");
  await expect(toolbar).toBeVisible();
  await desk.getByRole("button", { name: "Discard draft" }).click();
});

test("who writes on while a letter is formatted stays where they write, and nothing is lost", async ({
  desk,
  program,
}) => {
  await write(desk, program.url, "quote delivered");
  const body = desk.getByRole("textbox", { name: "Letter" });
  let answer = () => {};
  const held = new Promise<void>((done) => {
    answer = done;
  });
  await desk.route("**/api/letters/*/format", async (route) => {
    await held;
    await route.continue();
  });
  await desk.getByRole("button", { name: "Format it" }).click();
  await body.press("Control+Home");
  await desk.keyboard.type("Is it ");
  answer();
  await desk.keyboard.type("still not lost?", { delay: 15 });
  await expect(desk.getByRole("button", { name: "Bold" })).toBeVisible();
  await desk.keyboard.type(" No! ");
  await expect(body).toContainText("Is it still not lost? No! Dear");
  await expect(desk.getByText("Saved", { exact: true })).toBeVisible();
  await desk.reload();
  await expect(body).toContainText("Is it still not lost? No! Dear");
  await desk.getByRole("button", { name: "Discard draft" }).click();
});

test("writing goes on while the program is away for a while, and loses nothing", async ({ desk, program }) => {
  await write(desk, program.url, "quote delivered");
  const body = desk.getByRole("textbox", { name: "Letter" });
  await body.press("Control+Home");
  await desk.context().setOffline(true);
  await desk.keyboard.type("Written without a line. ");
  await expect(desk.getByRole("button", { name: "Not saved yet" })).toBeDisabled();
  await desk.keyboard.type("And more of it. ");
  await desk.context().setOffline(false);
  await expect(desk.getByText("Saved", { exact: true })).toBeVisible();
  await desk.reload();
  await expect(body).toContainText("Written without a line. And more of it. Dear");
  await desk.getByRole("button", { name: "Discard draft" }).click();
});

test("a letter is written on in a window of its own, and lies among the drafts until it goes", async ({
  desk,
  program,
}) => {
  await write(desk, program.url, "quote delivered");
  await desk.getByRole("textbox", { name: "Letter" }).press("Control+Home");
  await desk.keyboard.type("To be gone on with. ");
  const opened = desk.waitForEvent("popup");
  await desk.getByRole("button", { name: "Open in a new window" }).click();
  const own = await opened;
  await expect(desk).toHaveURL(/\/people\/\d+$/);
  await expect(own.getByRole("textbox", { name: "Letter" })).toContainText("To be gone on with. Dear");
  await own.getByRole("textbox", { name: "Letter" }).press("Control+Home");
  await own.keyboard.type("Soon. ");
  await expect(own.getByText("Saved", { exact: true })).toBeVisible();
  await own.close();
  await desk.goto(`${program.url}/outbox?view=drafts`);
  await desk.getByRole("listitem").first().getByRole("link").first().click();
  await expect(desk.getByRole("textbox", { name: "Letter" })).toContainText("Soon. To be gone on with.");
  await desk.getByRole("button", { name: "Discard draft" }).click();
});
