import { writeFileSync } from "node:fs";
import { expect, pickTemplate, signIn, test } from "../fixtures.ts";
import { startProgram } from "../program.ts";

test("a wrong password and a page that does not exist are said", async ({ page, program }) => {
  await page.goto(`${program.url}/nowhere/at/all`);
  await page.getByLabel("Email").fill("imre@fernhollow.example");
  await page.getByLabel("Password").fill("not this one");
  await page.getByRole("button", { name: "Sign in" }).click();
  await expect(page.getByRole("alert")).toContainText("The email or password is wrong.");
  await page.getByLabel("Password").fill("fernhollow");
  await page.getByRole("button", { name: "Sign in" }).click();
  await expect(page.getByRole("heading", { name: "Page not found" })).toBeVisible();
  for (const mistyped of ["templates/stationery", "people/ada", "letters/0", "deals/1e3"]) {
    await page.goto(`${program.url}/${mistyped}`);
    await expect(page.getByRole("heading", { name: "Page not found" })).toBeVisible();
  }
});

test("a bad file is refused with its lines, and the good rows can be brought in", async ({ desk, program }, info) => {
  const file = info.outputPath("people.csv");
  const choose = () => desk.getByLabel(/Choose a CSV file|choose another file/);
  await desk.goto(`${program.url}/people/import`);

  writeFileSync(file, 'Name,Email\n"Ada, a@b.example\n');
  await choose().setInputFiles(file);
  await expect(desk.getByRole("alert")).toContainText("a quote is not closed");

  writeFileSync(
    file,
    "Name,Shoe size,Email\nAda Quill,38,ada@quill.example\nBo Finch,41,bo@@finch.example\nCy Wren,40\n",
  );
  await choose().setInputFiles(file);
  await expect(desk.getByText("line 3")).toBeVisible();
  await expect(desk.getByText("has 2 cells and the header has 3")).toBeVisible();
  const go = desk.getByRole("button", { name: "Import 1 person" });
  await expect(go).toBeDisabled();
  await desk.getByLabel("Field for Shoe size").selectOption("skip");
  await desk.getByLabel("Skip these rows").check();
  await go.click();
  await expect(desk.getByText("1 added, 0 updated, 0 already the same, 2 skipped.")).toBeVisible();
});

test("a file as people have it: headers in German, decimal commas, an address of two people", async ({
  desk,
  program,
}, info) => {
  const file = info.outputPath("kunden.csv");
  writeFileSync(
    file,
    "Vorname;Nachname;E-Mail-Adresse;Firma;Ort;Cold-room volume;;\nUlla;O'Brandt;buero@hof.example;Hof;Ulm;12,5;;\nJörg;Weiß;buero@hof.example;Hof;Ulm;1.250;;\n;;;;;;;\n",
  );
  await desk.goto(`${program.url}/people/import`);
  await desk.getByLabel(/Choose a CSV file/).setInputFiles(file);
  const ask = desk.getByRole("combobox", { name: "Line 3: Jörg Weiß" });
  await expect(desk.getByRole("region", { name: "Who is meant?" })).toContainText("stands in line 2 already");
  await expect(desk.getByRole("button", { name: /^Import / })).toBeDisabled();
  await ask.selectOption("Add another person with this address");
  await desk.getByRole("button", { name: "Import 2 people" }).click();
  await expect(desk.getByText("2 added, 0 updated, 0 already the same.")).toBeVisible();
  const { people } = await (await desk.request.get(`${program.url}/api/people?q=hof.example`)).json();
  expect(people.map((p: { firstName: string; lastName: string }) => `${p.firstName} ${p.lastName}`).sort()).toEqual([
    "Jörg Weiß",
    "Ulla O'Brandt",
  ]);
  await desk.goto(`${program.url}/people/${people[0].id}`);
  await expect(desk.getByText("Cold-room volume")).toBeVisible();
});

test("a template is written, checked while typing and used", async ({ desk, program }) => {
  await desk.goto(`${program.url}/templates/new`);
  await desk.getByLabel(/^Name/).fill("Ice for the festival");
  await desk.getByLabel("When to use").fill("Festivals in summer");
  await desk.getByRole("textbox", { name: "Subject" }).click();
  await desk.keyboard.type("Ice, ");
  await desk.getByRole("button", { name: "Merge field" }).click();
  await desk.getByRole("searchbox", { name: "Search fields" }).fill("first name");
  await desk.getByRole("button", { name: "First name" }).first().click();
  await expect(desk.getByRole("textbox", { name: "Subject" })).toHaveText("Ice, {{person.first_name}}");

  const body = desk.getByRole("textbox", { name: "Letter" });
  await body.click();
  await desk.keyboard.press("Control+End");
  await desk.keyboard.type("\nPS: {{person.cty");
  const margin = desk.getByRole("complementary", { name: "Margin notes" });
  await expect(margin).toContainText("closing }} is missing");
  await expect(desk.getByRole("button", { name: "1 error" })).toBeDisabled();
  await desk.keyboard.press("Escape");
  await desk.keyboard.type("}}");
  await expect(margin).toContainText("did you mean person.city");
  await margin.getByRole("button", { name: "{{person.city}}" }).click();
  await expect(body).toContainText("PS: {{person.city}}");

  await expect(margin).toContainText(/Reach: \d+ of 4\d\d people without a gap/);
  await expect(margin).toContainText("City is missing");
  await desk.getByText("Try on a person").click();
  const trial = desk.getByRole("region", { name: "Tried on" });
  await expect(trial).toContainText(/1 of 4\d\d/);
  await trial.getByRole("searchbox").fill("port ellery");
  await expect(trial).toContainText("PS: Port Ellery");
  await trial.getByRole("button", { name: "Hardest case" }).click();
  await expect(trial.getByRole("status")).toContainText("the hardest case");
  await desk.getByText("Wording", { exact: true }).click();

  // Its words are too few to tell their language.
  await desk.getByRole("combobox", { name: /^Language/ }).selectOption("English");
  await desk.getByRole("button", { name: "Make ready" }).click();
  await expect(desk.getByText("Ready: everybody can use it. Version 1.")).toBeVisible();
  await pickTemplate(desk, program.url, "q=port+ellery&kind=lead", "festival");
  await expect(desk.getByRole("region", { name: "Preview" })).toContainText("PS: Port Ellery");
});

test("two windows store one template: the second is told and nothing is lost", async ({ desk, program, browser }) => {
  await desk.goto(`${program.url}/templates/new`);
  await desk.getByLabel(/^Name/).fill("Written by two");
  await desk.getByRole("button", { name: "Save as draft" }).click();
  await expect(desk.getByText(/Draft: nobody can use it/)).toBeVisible();
  const other = await (await browser.newContext()).newPage();
  await signIn(other, program.url, "greta@fernhollow.example");
  await other.goto(desk.url());
  const type = async (page: typeof desk, words: string) => {
    await page.getByRole("textbox", { name: "Letter" }).press("Control+Home");
    await page.keyboard.press("Control+Home");
    await page.keyboard.type(words);
    await page.getByRole("button", { name: "Save as draft" }).click();
  };
  await type(other, "Hers. ");
  await expect(other.getByText(/Version 2\./)).toBeVisible();
  await type(desk, "Mine. ");
  await expect(desk.getByRole("alert")).toContainText("Somebody stored version 2");
  await expect(desk.getByRole("textbox", { name: "Letter" })).toContainText("Mine. Dear");
  await other.reload();
  await expect(other.getByRole("textbox", { name: "Letter" })).toContainText("Hers. Dear");
  await desk.getByRole("button", { name: "Save mine anyway" }).click();
  await expect(desk.getByText(/Version 3\./)).toBeVisible();
  await other.context().close();
});

test("one draft in two windows: both texts are kept until one is chosen", async ({ desk, program, context }) => {
  await pickTemplate(desk, program.url, "q=bakery&kind=lead", "an empty letter");
  await desk.keyboard.press("Enter");
  await desk.getByRole("textbox", { name: "Letter" }).press("Control+Home");
  const second = await context.newPage();
  await second.goto(desk.url());
  await second.getByRole("textbox", { name: "Letter" }).press("Control+Home");
  await second.keyboard.type("From the second window");
  await expect(second.getByText("Saved", { exact: true })).toBeVisible();
  await expect
    .poll(async () => (await desk.request.get(desk.url().replace("/letters/", "/api/letters/"))).text())
    .toContain("second window");
  await desk.keyboard.type("From the first window");
  await expect(desk.getByRole("alert")).toContainText("changed in another window");
  await desk.getByRole("button", { name: "Use the other version" }).click();
  await expect(desk.getByRole("textbox", { name: "Letter" })).toContainText("From the second window");
  await desk.getByRole("button", { name: "Discard draft" }).click();
});

test("a mail server that is not there: the letter stays with the reason, and goes on a retry", async ({ page }) => {
  const program = await startProgram("--smtp", "127.0.0.1:9");
  try {
    await signIn(page, program.url, "imre@fernhollow.example");
    await pickTemplate(page, program.url, "q=flower&kind=contact", "Three pictures");
    await page.keyboard.press("Enter");
    await expect(page.getByRole("textbox", { name: "Letter" })).toContainText("Could you take three pictures");
    await page.getByRole("button", { name: /^Send to/ }).click();
    const letter = page.getByRole("article", { name: "Letter: Three pictures" });
    await expect(letter.getByRole("status").filter({ hasText: "tried once" })).toContainText(
      "the mail server 127.0.0.1:9 was not reached",
    );
    await page.getByRole("link", { name: "Outbox" }).click();
    const line = page.getByRole("listitem").filter({ hasText: "Three pictures" }).first();
    await expect(line).toContainText("tried once");
    await line.getByRole("button", { name: "Try now" }).click();
    await expect(line).toContainText("tried twice");
    await line.getByRole("button", { name: "Take back" }).click();
    await expect(page.getByRole("textbox", { name: "Letter" })).toContainText("Could you take three pictures");
  } finally {
    await program.stop();
  }
});

test("Enter before the templates have come is not lost", async ({ desk, program }) => {
  let come = () => {};
  const wait = new Promise<void>((done) => {
    come = done;
  });
  await desk.route("**/api/people/*/templates*", async (route) => {
    await wait;
    await route.continue();
  });
  await pickTemplate(desk, program.url, "q=dairy&kind=lead", "Missed call");
  await desk.keyboard.press("Enter");
  come();
  await expect(desk.getByRole("textbox", { name: "Letter" })).toContainText("tried to reach you");
  await desk.getByRole("button", { name: "Discard draft" }).click();
});

test("a session that ended keeps the words and goes on after signing in", async ({ desk, program }) => {
  await pickTemplate(desk, program.url, "q=dairy&kind=lead", "an empty letter");
  await desk.keyboard.press("Enter");
  await desk.getByRole("textbox", { name: "Letter" }).press("Control+Home");
  await desk.context().clearCookies();
  await desk.keyboard.type("Not lost");
  const again = desk.getByRole("dialog", { name: "Sign in again" });
  await again.getByLabel("Email").fill("imre@fernhollow.example");
  await again.getByLabel("Password").fill("fernhollow");
  await again.getByRole("button", { name: "Sign in" }).click();
  await expect(again).toBeHidden();
  await expect(desk.getByText("Saved", { exact: true })).toBeVisible();
  await desk.reload();
  await expect(desk.getByRole("textbox", { name: "Letter" })).toContainText("Not lost");
});

// An answer that was on its way while somebody signed in again is of the session before.
test("a late refusal does not ask to sign in a second time", async ({ desk, program }) => {
  await pickTemplate(desk, program.url, "q=dairy&kind=lead", "an empty letter");
  await desk.keyboard.press("Enter");
  await desk.getByRole("textbox", { name: "Letter" }).press("Control+Home");
  let hold: () => void = () => {};
  const held = new Promise<void>((go) => {
    hold = go;
  });
  await desk.route("**/api/history**", (r) => r.abort());
  await desk.route("**/api/letters/*", async (r) => {
    if (r.request().method() !== "PUT") return r.continue();
    const answer = await r.fetch();
    if (answer.status() === 401) await held;
    await r.fulfill({ response: answer });
  });
  await desk.context().clearCookies();
  await desk.keyboard.type("Kept");
  await desk.evaluate(() => fetch("/api/people").catch(() => {}));
  await desk.waitForRequest((r) => r.method() === "PUT");
  // Another request tells that the session is over; the first one's answer comes when it is back.
  const again = desk.getByRole("dialog", { name: "Sign in again" });
  await again.getByLabel("Email").fill("imre@fernhollow.example");
  await again.getByLabel("Password").fill("fernhollow");
  await again.getByRole("button", { name: "Sign in" }).click();
  await expect(again).toBeHidden();
  hold();
  await expect(desk.getByText("Saved", { exact: true })).toBeVisible();
  await expect(again).toBeHidden();
  await desk.getByRole("button", { name: "Discard draft" }).click();
});
