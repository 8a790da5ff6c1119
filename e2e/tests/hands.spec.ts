import { expect, lead, signIn, template, test } from "../fixtures.ts";
import { textOf, typeAtRandom, watch } from "../hands.ts";

// Hands that do not know the ways: the caret where nobody put it on purpose, and keys at random.

test("what is typed behind a blank that was just inserted stands behind it", async ({ page, program }) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  await page.goto(`${program.url}/templates/new`);
  await page.getByRole("button", { name: "Format it" }).click();
  const body = page.getByRole("textbox", { name: "Letter" });
  await expect(body.locator("[data-field='person.first_name']")).toBeVisible();
  await body.click();
  await page.keyboard.press("Control+a");
  await page.keyboard.type("It costs ");
  await page.getByRole("button", { name: "Blank", exact: true }).click();
  await page.keyboard.type(" a year.");
  await expect(body).toContainText(/It costs words a year\./);
  // One that is chosen with the mouse is not typed over either; Delete takes it.
  await body.locator("[data-blank]").click();
  await page.keyboard.type("!");
  await expect(body).toContainText(/It costs words! a year\./);
  // Pressed again at once it is a second press of one place, as for a double click; later it is one press.
  await body.locator("[data-blank]").click();
  await page.keyboard.press("Delete");
  await expect(body.locator("[data-blank]")).toHaveCount(0);
  await expect(body).toContainText(/It costs ! a year\./);
});

test("a letter that is formatted is written on where its writer was", async ({ page, program }) => {
  await signIn(page, program.url, "imre@fernhollow.example");
  const id = await lead(page, program.url, { "person.last_name": "Hale", "person.email": "hale@hale.example" });
  const made = await (await page.request.post(`${program.url}/api/letters`, { data: { personId: id } })).json();
  await page.goto(`${program.url}/letters/${made.id}`);
  const letter = page.getByRole("textbox", { name: "Letter" });
  await letter.click();
  await page.keyboard.press("Control+Home");
  await page.keyboard.type("One two four.");
  for (let i = 0; i < 5; i++) await page.keyboard.press("ArrowLeft");
  await page.getByRole("button", { name: "Format it" }).click();
  await expect(page.getByRole("toolbar", { name: "Formatting" })).toBeVisible();
  await page.keyboard.type("three ");
  await expect(letter).toContainText("One two three four.");
});

for (const formatted of [false, true])
  test(`what is typed at random at the desk is on the server, ${formatted ? "formatted" : "plain"}, also after a reload`, async ({
    page,
    program,
    context,
  }) => {
    test.setTimeout(180_000);
    const seen = watch(page);
    await signIn(page, program.url, "imre@fernhollow.example");
    const name = formatted ? "Formhale" : "Plainhale";
    const id = await lead(page, program.url, {
      "person.first_name": "Ada",
      "person.last_name": name,
      "person.email": `${name}@hale.example`,
    });
    const t = await template(
      page,
      program.url,
      `For ${name}`,
      "Hello",
      "Dear {{person.first_name}},\n\nThe room in {{person.city|}} is {{?state}}.\n\nKind regards,",
    );
    const made = await (
      await page.request.post(`${program.url}/api/letters`, { data: { personId: id, templateId: t } })
    ).json();
    await page.goto(`${program.url}/letters/${made.id}`);
    const letter = page.getByRole("textbox", { name: "Letter" });
    await expect(letter).toContainText("Dear Ada");
    if (formatted) {
      await page.getByRole("button", { name: "Format it" }).click();
      await expect(page.getByRole("toolbar", { name: "Formatting" })).toBeVisible();
    }
    for (let seed = 1; seed <= 4; seed++) {
      await letter.click();
      await typeAtRandom(page, letter, seed + (formatted ? 100 : 0), 60);
      if (seed % 2 === 0) {
        // At once, with words that are not saved yet.
        const there = (await letter.innerText()).replace(/\s+/g, " ").trim();
        await page.reload();
        await expect(async () => expect((await letter.innerText()).replace(/\s+/g, " ").trim()).toBe(there)).toPass();
      }
      await expect(page.getByText("Saved", { exact: true })).toBeVisible();
      const shown = (await letter.innerText()).replace(/\s+/g, "");
      await expect(async () => {
        const stored = await (await page.request.get(`${program.url}/api/letters/${made.id}`)).json();
        expect(textOf(stored.body).replace(/\s+/g, "")).toBe(shown);
      }).toPass();
    }
    // A second window shows the same words, and what is typed there comes back to the first.
    const other = await context.newPage();
    await other.goto(page.url());
    await expect(async () =>
      expect((await other.getByRole("textbox", { name: "Letter" }).innerText()).replace(/\s+/g, "")).toBe(
        (await letter.innerText()).replace(/\s+/g, ""),
      ),
    ).toPass();
    await expect(async () => expect(seen.open).toBe(0)).toPass();
    expect(seen.faults).toEqual([]);
  });

test("a template with too few words to tell its language asks for it before it is ready", async ({ page, program }) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  await page.goto(`${program.url}/templates/new`);
  await page.getByLabel("Name (recipients never see it)").fill("Few words");
  const body = page.getByRole("textbox", { name: "Letter" });
  await body.click();
  await page.keyboard.press("Control+a");
  await page.keyboard.type("Termin: {{deal.close_date}}");
  await page.getByRole("textbox", { name: "Subject" }).click();
  await page.keyboard.type("Termin");
  await expect(page.getByLabel("Language")).toHaveText(/Recognised from the text/);
  await page.getByRole("button", { name: "Make ready" }).click();
  const ask = page.getByRole("dialog", { name: "Which language is it written in?" });
  await expect(ask.getByRole("button", { name: "Make ready" })).toBeDisabled();
  await ask.getByLabel("Language of the template").selectOption("German");
  await ask.getByRole("button", { name: "Make ready" }).click();
  await expect(page.getByText("Ready: everybody can use it.")).toBeVisible();
  await expect(page.getByRole("combobox", { name: /^Language/ })).toHaveValue("de");
});
