import type { Page } from "@playwright/test";
import { simpleParser } from "mailparser";
import { expect, lead, switchTo, template, test } from "../fixtures.ts";

/** The letters in a mailbox of the post office, as an independent reader sees them (npm mailparser). */
async function received(page: Page, url: string, box: string) {
  const answer = await page.request.get(`${url}/api/post-office/${box}`);
  const list: { id: number }[] = answer.ok() ? await answer.json() : [];
  return Promise.all(
    list.map(async ({ id }) => {
      const one = await (await page.request.get(`${url}/api/post-office-letters/${id}`)).json();
      return simpleParser(one.source);
    }),
  );
}

test("a round of 25: gaps are filled for all alike, letters changed and held back, one opts out; what went is what the summary says", async ({
  desk,
  program,
}) => {
  const { url } = program;
  const people: number[] = [];
  for (let i = 0; i < 25; i++)
    people.push(
      await lead(desk, url, {
        "person.first_name": `Robin${String.fromCharCode(65 + i)}`,
        "person.last_name": "Marsh",
        "person.email": `robin${i}@marsh.example`,
        "person.city": "Roundton",
        ...(i % 5 !== 0 && { "person.job_title": "Head baker" }),
        ...(i !== 7 && i !== 8 && { "person.basis": "Asked us" }),
      }),
    );
  await template(
    desk,
    url,
    "Round to bakers",
    "A room for {{person.first_name}}",
    "Dear {{person.first_name}},\n\nAs {{person.job_title}} you know. {{?offer}}",
  );
  await desk.request.post(`${url}/api/lists`, {
    data: { name: "In Roundton", filter: 'person.city is "Roundton"', sort: "", down: false, shared: false },
  });

  await desk.goto(`${url}/people`);
  await desk.getByRole("button", { name: "More about the list In Roundton" }).click();
  await desk.getByRole("menuitem", { name: "Start a round" }).click();
  await expect(desk.getByRole("heading", { level: 1, name: "In Roundton" })).toBeVisible();
  const offered = desk.getByRole("region", { name: "Templates that fit" });
  await offered.getByRole("button", { name: /Round to bakers.*20 complete, 5 with gaps/s }).click();

  // What all lack is filled once.
  const alike = desk.getByRole("region", { name: "For all alike" });
  await alike.getByRole("textbox", { name: "Offer, for everybody" }).fill("Ten per cent off.");
  await desk.keyboard.press("Enter");
  await alike.getByRole("textbox", { name: "Job title, for all who lack it" }).fill("the owner");
  await alike.getByRole("button", { name: "Fill in all 5" }).click();
  await expect(alike.getByText("where it is missing: “the owner”")).toBeVisible();
  await alike.getByRole("button", { name: "Set the basis for all 2" }).click();
  const basis = desk.getByRole("dialog", { name: /Why may you write/ });
  await basis.getByLabel("Basis").selectOption("Referral");
  await basis.getByLabel("Where do you know it from?").fill("named by the guild");
  await desk.keyboard.press("Control+Enter");
  await expect(basis).toBeHidden();
  const list = desk.getByRole("region", { name: "People of this round" });
  await expect(list.getByRole("combobox", { name: "Show" })).toContainText("Ready (25)");

  // One by one, by keyboard: good, change, hold back.
  const letter = desk.getByRole("heading", { level: 2, name: /A room for|For you alone/ });
  const robin = (i: number) => `Robin${String.fromCharCode(65 + i)}`;
  for (let i = 0; i < 25; i++) {
    await expect(letter).toHaveText(`A room for ${robin(i)}`);
    if (i === 4 || i === 9) {
      await desk.keyboard.press("h");
    } else if (i % 10 === 2) {
      await desk.keyboard.press("e");
      await desk.getByRole("textbox", { name: "Subject" }).fill(`For you alone, ${robin(i)}`);
      await desk.keyboard.press("Control+Enter");
      await expect(letter).toHaveText(`For you alone, ${robin(i)}`);
      await expect(desk.getByText("Changed, to be proofread", { exact: true })).toBeVisible();
      await desk.keyboard.press("Enter");
    } else {
      if (i === 1)
        await expect(desk.getByRole("region", { name: "Differs from the letter before" })).toContainText("RobinB");
      await desk.keyboard.press("Enter");
    }
  }
  await expect(desk.getByText("That was the last one.")).toBeVisible();
  await expect(desk.getByRole("button", { name: /3 Check.*23 of 23 marked good/s })).toBeVisible();

  // Somebody opts out before the letters go, without anybody looking.
  const out = await desk.request.post(`${url}/api/opt-outs`, {
    data: { text: "robin3@marsh.example", reason: "asked" },
  });
  expect(out.ok()).toBe(true);
  await desk.getByRole("button", { name: /4 Send/ }).click();
  // Pressed at once or after the screen heard of it: 23 letters never go.
  await desk.getByRole("button", { name: /^Send 2[23] letters/ }).click();
  const results = desk.getByRole("region", { name: "Results" });
  const again = desk.getByText("22 letters would go now, not 23");
  await expect(again.or(results)).toBeVisible();
  if (await again.isVisible()) await desk.getByRole("button", { name: "Send 22 letters" }).click();
  await expect(results.getByRole("button", { name: /^22\s*Sent/ })).toBeVisible({ timeout: 30_000 });
  await expect(results.getByRole("button", { name: /^1\s*Skipped/ })).toBeVisible();

  // The summary equals what the post office holds, person by person.
  const id = Number(/rounds\/(\d+)/.exec(desk.url())?.[1]);
  const csv = await (await desk.request.get(`${url}/api/rounds/${id}/summary.csv`)).text();
  const rows = csv
    .trim()
    .split(/\r?\n/)
    .slice(1)
    .map((line) => line.split(","));
  expect(rows).toHaveLength(25);
  for (const [name, email, , state, why] of rows) {
    const i = Number(/\d+/.exec(email ?? "")?.[0]);
    const mails = await received(desk, url, email ?? "");
    expect([name, state, mails.length]).toEqual([name, state, state === "sent" ? 1 : 0]);
    if (i === 3) expect(why).toMatch(/^Unsubscribed/);
    const mail = mails[0];
    if (!mail) continue;
    expect(mail.subject).toBe(i % 10 === 2 ? `For you alone, ${robin(i)}` : `A room for ${robin(i)}`);
    expect(mail.text).toContain(`As ${i % 5 === 0 ? "the owner" : "Head baker"} you know. Ten per cent off.`);
    expect(mail.text).toContain(`Dear ${robin(i)},`);
    expect(mail.to && !Array.isArray(mail.to) && mail.to.value.map((a) => a.address)).toEqual([email]);
  }
  // The reason stands on the record, and the held back ones are left.
  const kept = await (await desk.request.get(`${url}/api/people/${people[7]}`)).json();
  expect(kept.person).toMatchObject({ basis: "Referral", basisSource: "named by the guild" });
  expect(rows.filter(([, , , state]) => state === "set aside")).toHaveLength(2);
});

test("two windows on one round: what one changes the other is told, and nothing goes that was not looked at", async ({
  desk,
  program,
  context,
}) => {
  const { url } = program;
  const ids = [
    await lead(desk, url, {
      "person.first_name": "Ada",
      "person.last_name": "Fenn",
      "person.email": "ada@fenn.example",
      "person.basis": "Asked us",
    }),
    await lead(desk, url, {
      "person.first_name": "Bo",
      "person.last_name": "Fenn",
      "person.email": "bo@fenn.example",
      "person.basis": "Asked us",
    }),
  ];
  const first = await template(
    desk,
    url,
    "Two windows",
    "Hello {{person.first_name}}",
    "Dear {{person.first_name}},\n\nOld words.",
  );
  const made = await desk.request.post(`${url}/api/rounds`, { data: { people: ids, templateId: first } });
  const { id } = await made.json();
  const other = await context.newPage();
  for (const page of [desk, other]) {
    await page.goto(`${url}/rounds/${id}`);
    await expect(page.getByRole("heading", { level: 2, name: "Hello Ada" })).toBeVisible();
  }
  await desk.keyboard.press("Enter");
  await expect(desk.getByRole("heading", { level: 2, name: "Hello Bo" })).toBeVisible();
  // The wording is changed for this round in the other window: what was marked good is so no more.
  await other.getByRole("button", { name: /2 Template/ }).click();
  await other.getByRole("button", { name: "Change the wording for this round" }).click();
  const body = other.getByRole("textbox", { name: /Body|Letter/ });
  await body.click();
  await other.keyboard.press("Control+End");
  await other.keyboard.type(" New ones.");
  await other.getByRole("button", { name: "Use it for this round" }).click();
  await expect(other.getByText("Old words. New ones.")).toBeVisible();
  await expect(other.getByRole("button", { name: /3 Check.*0 of 2 marked good/s })).toBeVisible();
  await desk.getByRole("button", { name: /4 Send/ }).click();
  await desk.getByRole("radio", { name: /All that are ready/ }).check();
  await desk.getByRole("button", { name: "Send 2 letters" }).click();
  await expect(desk.getByText(/The round was changed in another window/)).toBeVisible();
  expect(await received(desk, url, "ada@fenn.example")).toHaveLength(0);

  // The template itself was not touched; a lead changes it, and the sender decides.
  const sheet = await (await desk.request.get(`${url}/api/templates/${first}`)).json();
  expect(sheet.body).not.toContain("New ones");
  const put = await desk.request.put(`${url}/api/templates/${first}`, {
    data: {
      name: "Two windows",
      whenToUse: "",
      subject: "Hello {{person.first_name}}",
      body: "Other words.",
      kind: "plain",
      state: "ready",
      tags: [],
      language: "",
      stationery: 0,
      version: sheet.version,
    },
  });
  expect(put.ok(), await put.text()).toBe(true);
  await desk.reload();
  await expect(desk.getByRole("alert")).toContainText("The template “Two windows” was changed");
  await desk.getByRole("button", { name: "Keep this wording" }).click();
  await expect(desk.getByRole("alert")).toHaveCount(0);
  await desk.getByRole("button", { name: /4 Send/ }).click();
  await desk.getByRole("radio", { name: /All that are ready/ }).check();
  await desk.getByRole("button", { name: "Send 2 letters" }).click();
  await expect(desk.getByRole("region", { name: "Results" }).getByRole("button", { name: /^2\s*Sent/ })).toBeVisible({
    timeout: 30_000,
  });
  const [mail] = await received(desk, url, "ada@fenn.example");
  expect(mail?.text).toContain("Old words. New ones.");
});

test("blanks are answered from a pasted table, and rows that match nobody are told", async ({ desk, program }) => {
  const { url } = program;
  const ids: number[] = [];
  for (const name of ["Ida", "Jon", "Kit"])
    ids.push(
      await lead(desk, url, {
        "person.first_name": name,
        "person.last_name": "Wold",
        "person.email": `${name.toLowerCase()}@wold.example`,
        "person.basis": "Asked us",
      }),
    );
  const t = await template(desk, url, "From a table", "Hello", "Dear {{person.first_name}}, {{?story}}");
  const { id } = await (await desk.request.post(`${url}/api/rounds`, { data: { people: ids, templateId: t } })).json();
  await desk.goto(`${url}/rounds/${id}`);
  await desk.getByRole("button", { name: "Fill from a table" }).click();
  const dialog = desk.getByRole("dialog", { name: "Fill letters from a table" });
  await dialog
    .getByRole("textbox", { name: "The table" })
    .fill(
      "Email\tStory\nida@wold.example\tthe blue door\nJON@wold.example\tthe old oven\nnobody@wold.example\tnothing",
    );
  await dialog.getByRole("button", { name: "Look at it" }).click();
  await expect(dialog).toContainText(
    "3 rows, of which 2 are about people of this round. About 1 person there is no row.",
  );
  await expect(dialog).toContainText("Row 4 (nobody@wold.example): nobody of this round");
  await dialog.getByRole("button", { name: "Fill in 2 values" }).click();
  await expect(dialog).toBeHidden();
  await expect(desk.getByText("Dear Ida, the blue door")).toBeVisible();
  await expect(desk.getByRole("button", { name: /3 Check.*1 gap/s })).toBeVisible();
});

test("a recipe is kept by a lead and run by a representative in four steps", async ({ desk, program }) => {
  const { url } = program;
  await lead(desk, url, {
    "person.first_name": "Ned",
    "person.last_name": "Holt",
    "person.email": "ned@holt.example",
    "person.city": "Recipeton",
    "person.basis": "Asked us",
  });
  await switchTo(desk, url, "greta@fernhollow.example");
  await template(desk, url, "For the recipe", "Hello {{person.first_name}}", "Dear {{person.first_name}}");
  await desk.request.post(`${url}/api/lists`, {
    data: { name: "In Recipeton", filter: 'person.city is "Recipeton"', sort: "", down: false, shared: true },
  });
  await desk.goto(`${url}/rounds`);
  await desk.getByRole("button", { name: "New recipe" }).click();
  const dialog = desk.getByRole("dialog", { name: "New recipe" });
  await dialog.getByLabel("Name", { exact: true }).fill("Spring in Recipeton");
  await dialog.getByRole("checkbox", { name: "For the recipe" }).check();
  // No list is taken that nobody chose.
  await expect(dialog.getByRole("button", { name: "Save the recipe" })).toBeDisabled();
  await dialog.getByLabel("To everybody in the shared list").selectOption("In Recipeton");
  await dialog.getByLabel("What to look at before it is sent").fill("Is the workshop open?");
  await dialog.getByLabel("Set a field").selectOption("Lead status");
  await dialog.getByLabel("Lead status, afterwards").selectOption("in touch");
  await desk.keyboard.press("Control+Enter");
  await expect(dialog).toBeHidden();

  await switchTo(desk, url, "imre@fernhollow.example");
  await desk.goto(`${url}/rounds`);
  const recipes = desk.getByRole("region", { name: "Recipes" });
  await expect(recipes.getByRole("button", { name: "New recipe" })).toHaveCount(0);
  await recipes.getByRole("button", { name: "Run Spring in Recipeton" }).click();
  await expect(desk.getByText("Is the workshop open?")).toBeVisible();
  await expect(desk.getByRole("heading", { level: 2, name: "Hello Ned" })).toBeVisible();
  await desk.keyboard.press("Enter");
  await expect(desk.getByRole("button", { name: /3 Check.*1 of 1 marked good/s })).toBeVisible();
  await desk.getByRole("button", { name: /4 Send/ }).click();
  await expect(desk.getByText("Afterwards: status to “in touch”.")).toBeVisible();
  await desk.getByRole("button", { name: "Send 1 letter" }).click();
  await expect(desk.getByRole("region", { name: "Results" }).getByRole("button", { name: /^1\s*Sent/ })).toBeVisible({
    timeout: 30_000,
  });
  await expect
    .poll(async () => (await (await desk.request.get(`${url}/api/people?q=ned@holt.example`)).json()).people[0].status)
    .toBe("in touch");
});

test("a recipe whose list is shared no more asks for another, and keeps no list that nobody chose", async ({
  desk,
  program,
}) => {
  const { url } = program;
  await switchTo(desk, url, "greta@fernhollow.example");
  const made = await template(
    desk,
    url,
    "For nobody’s list",
    "Hello {{person.first_name}}",
    "Dear {{person.first_name}}",
  );
  const list = { name: "Shared for a while", filter: 'person.city is "Shareton"', sort: "", down: false, shared: true };
  const { id } = await (await desk.request.post(`${url}/api/lists`, { data: list })).json();
  const recipe = {
    name: "Without a list",
    listId: id,
    version: 0,
    said: { templates: [made], look: "", when: {}, after: {} },
  };
  expect((await desk.request.post(`${url}/api/recipes`, { data: recipe })).status()).toBe(200);
  expect((await desk.request.delete(`${url}/api/lists/${id}`)).ok()).toBe(true);

  await desk.goto(`${url}/rounds`);
  await desk.getByRole("button", { name: "More about Without a list" }).click();
  await desk.getByRole("menuitem", { name: "Change" }).click();
  const dialog = desk.getByRole("dialog", { name: "Change the recipe" });
  await expect(dialog.getByText("“Shared for a while” is not a shared list any more.")).toBeVisible();
  await expect(dialog.getByLabel("To everybody in the shared list")).toHaveValue("0");
  await expect(dialog.getByRole("button", { name: "Save the recipe" })).toBeDisabled();
});
