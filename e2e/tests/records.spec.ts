import { arrived, expect, test } from "../fixtures.ts";

test("an enquiry by telephone: a lead by hand, a letter, a contact with company and deal, a letter from the deal", async ({
  desk,
  program,
}) => {
  await desk.goto(`${program.url}/people`);
  await desk.getByRole("button", { name: "New person" }).click();
  const form = desk.getByRole("dialog", { name: "New lead" });
  await form.getByLabel("First name").fill("Wilhelmina");
  await form.getByLabel("Last name").fill("O’Hara-Østergård");
  await form.getByLabel("Email").fill("mina@larchoven.example");
  // A company that is typed counts, also when nothing is picked.
  await form.getByRole("combobox", { name: "Company" }).fill("Larch Oven & Sons");
  await form.getByLabel("Job title").fill("Owner");
  await form.getByRole("button", { name: "Add and write" }).click();
  await desk.getByRole("combobox", { name: "Search templates" }).fill("Blank");
  await desk.keyboard.press("Enter");
  await desk.getByRole("textbox", { name: "Subject" }).fill("Your call");
  await desk.getByRole("textbox", { name: "Letter" }).fill("Thank you for calling.");
  await desk.getByRole("button", { name: /^Send to Wilhelmina/ }).click();
  await expect(desk.getByText(/Filed as it was sent/)).toBeVisible();
  expect((await arrived(desk, program.url, "mina@larchoven.example")).subject).toBe("Your call");

  await desk.getByRole("textbox", { name: "What was said" }).fill("Wants 40 m³\nby May");
  await desk.getByRole("button", { name: "Write down" }).click();
  const history = desk.getByRole("region", { name: "History" });
  await expect(history).toContainText("Wants 40 m³");

  await desk.getByRole("button", { name: "More about this person" }).click();
  await desk.getByRole("menuitem", { name: "Make a contact" }).click();
  const make = desk.getByRole("dialog", { name: /^Make Wilhelmina/ });
  await expect(make.getByRole("combobox", { name: "Company" })).toHaveValue("Larch Oven & Sons");
  await make.getByLabel("Begin a deal with them").check();
  await make.getByLabel("Deal", { exact: true }).fill("Cold room, 40 m³");
  await make.getByLabel("Amount").fill("much");
  await make.getByRole("button", { name: "Make a contact" }).click();
  await expect(make.getByRole("alert")).toContainText("Amount");
  await make.getByLabel("Amount").fill("18900.00 EUR");
  await make.getByRole("button", { name: "Make a contact" }).click();
  await expect(make).toBeHidden();
  await expect(desk.getByText(/^Contact at Larch Oven & Sons/)).toBeVisible();
  await expect(history).toContainText("Became a contact at Larch Oven & Sons");
  await expect(history).toContainText("Your call");

  // Taken back, she is a lead as before; made a contact again, she has her deal.
  await desk
    .getByRole("listitem")
    .filter({ hasText: "is a contact now" })
    .getByRole("button", { name: "Undo" })
    .click();
  await expect(desk.getByText("Wilhelmina O’Hara-Østergård is a lead again, as before.")).toBeVisible();
  await expect(desk.getByText(/^Lead at Larch Oven & Sons/)).toBeVisible();
  await expect(desk.getByRole("link", { name: /^Cold room, 40 m³/ })).toHaveCount(0);
  await desk.getByRole("button", { name: "More about this person" }).click();
  await desk.getByRole("menuitem", { name: "Make a contact" }).click();
  await make.getByLabel("Begin a deal with them").check();
  await make.getByLabel("Deal", { exact: true }).fill("Cold room, 40 m³");
  await make.getByLabel("Amount").fill("18900.00 EUR");
  await make.getByRole("button", { name: "Make a contact" }).click();
  await expect(desk.getByText(/^Contact at Larch Oven & Sons/)).toBeVisible();

  await desk.getByRole("link", { name: /^Cold room, 40 m³/ }).click();
  await expect(desk.getByRole("heading", { name: "Cold room, 40 m³" })).toBeVisible();
  await desk.getByRole("button", { name: /^Write to Wilhelmina/ }).click();
  await desk.getByRole("combobox", { name: "Search templates" }).fill("Blank");
  await desk.keyboard.press("Enter");
  await desk.getByRole("textbox", { name: "Subject" }).fill("Our quote");
  await desk.getByRole("textbox", { name: "Letter" }).fill("Here it is.");
  await desk.getByRole("button", { name: /^Send to Wilhelmina/ }).click();
  await expect(desk.getByText(/Filed as it was sent/)).toBeVisible();
});

test("somebody who is there already is named while they are typed again", async ({ desk, program }) => {
  const rows = await desk.request.get(`${program.url}/api/people?kind=contact&limit=1`);
  const [one] = (await rows.json()).people as { id: number; firstName: string; lastName: string; company: string }[];
  await desk.goto(`${program.url}/people`);
  await desk.getByRole("button", { name: "New person" }).click();
  const form = desk.getByRole("dialog", { name: "New lead" });
  await form.getByLabel("First name").fill(one?.firstName ?? "");
  await form.getByLabel("Last name").fill(`${one?.lastName}s`); // a slip
  await form.getByRole("combobox", { name: "Company" }).fill(one?.company ?? "");
  await expect(form.getByRole("status")).toContainText("at this company");
  await form.getByRole("link", { name: `${one?.firstName} ${one?.lastName}` }).click();
  await expect(desk).toHaveURL(`${program.url}/people/${one?.id}`);
  await expect(form).toBeHidden();
});

test("a record is deleted with a word about what hangs on it, is gone from the lists, and comes back", async ({
  desk,
  program,
  context,
}) => {
  const made = await desk.request.post(`${program.url}/api/records/person`, {
    data: { kind: "lead", values: { "person.last_name": "Zuckerman", "person.email": "z@zuckerman.example" } },
  });
  const { id } = await made.json();
  await desk.goto(`${program.url}/people/${id}`);
  // Somebody writes to them in another window meanwhile.
  const other = await context.newPage();
  await other.goto(`${program.url}/people/${id}`);
  await other.getByRole("heading", { level: 1 }).waitFor();
  await other.keyboard.press("w");
  await other.getByRole("combobox", { name: "Search templates" }).fill("Blank");
  await other.keyboard.press("Enter");
  await other.getByRole("textbox", { name: "Subject" }).fill("Hello");
  await other.getByRole("textbox", { name: "Letter" }).fill("Are you there?");
  await expect(other.getByRole("button", { name: /^Send to Zuckerman/ })).toBeEnabled();

  await desk.getByRole("button", { name: "More about this person" }).click();
  await desk.getByRole("menuitem", { name: "Delete" }).click();
  const ask = desk.getByRole("dialog", { name: "Delete Zuckerman?" });
  await expect(ask).toContainText("1 draft stays as it is");
  await ask.getByRole("button", { name: "Delete" }).click();
  await expect(desk).toHaveURL(`${program.url}/people`);
  await desk.getByRole("searchbox", { name: "Search people" }).fill("zuckerman");
  await expect(desk.getByText("Nobody matches your search.")).toBeVisible();

  // The letter does not go, and its words are not lost.
  await other.getByRole("button", { name: /^Send to Zuckerman/ }).click();
  await expect(other.getByText(/was deleted from the records/).first()).toBeVisible();
  await expect(other.getByRole("textbox", { name: "Letter" })).toContainText("Are you there?");

  await desk.goto(`${program.url}/people/${id}`);
  await expect(desk.getByRole("alert")).toContainText("This record was deleted");
  await desk.getByRole("button", { name: "Put it back" }).click();
  await expect(desk.getByRole("alert")).toHaveCount(0);
  await other.reload();
  await other.getByRole("button", { name: /^Send to Zuckerman/ }).click();
  await expect(other.getByText(/Filed as it was sent/)).toBeVisible();
});

test("a deal moves to another stage by keyboard, and its people and company are changed", async ({ desk, program }) => {
  const { deals } = await (await desk.request.get(`${program.url}/api/deals`)).json();
  const d = deals.find((x: { stage: string }) => x.stage === "survey");
  await desk.goto(`${program.url}/deals?view=stages`);
  const survey = desk.getByRole("region", { name: "survey" });
  const quoted = desk.getByRole("region", { name: "quoted" });
  const card = survey.getByRole("listitem").filter({ has: desk.locator(`a[href="/deals/${d.id}"]`) });
  await card.getByRole("button", { name: /^Move/ }).focus();
  await desk.keyboard.press("Space");
  await expect(desk.getByText(/was taken|is over survey/)).toBeAttached();
  await desk.keyboard.press("ArrowRight");
  await expect(desk.getByText(/is over quoted/)).toBeAttached();
  await desk.keyboard.press("Space");
  await expect(quoted.locator(`a[href="/deals/${d.id}"]`)).toBeVisible();
  await desk.getByRole("button", { name: "Undo" }).click();
  await expect(survey.locator(`a[href="/deals/${d.id}"]`)).toBeVisible();

  await desk.goto(`${program.url}/deals/${d.id}`);
  await desk.getByRole("button", { name: "More about this deal" }).click();
  await desk.getByRole("menuitem", { name: "Change the people" }).click();
  const people = desk.getByRole("dialog", { name: /^People of/ });
  const before = await people.getByRole("radio").count();
  await people.getByRole("combobox", { name: "Add somebody" }).fill("nobody of this name");
  await expect(people.getByText("Nobody matches.")).toBeVisible();
  await people.getByRole("combobox", { name: "Add somebody" }).fill("abelard");
  await people
    .getByRole("option", { name: /abelard/i })
    .first()
    .click();
  await expect(people.getByRole("radio")).toHaveCount(before + 1);
  await people.getByRole("radio").last().check();
  await people.getByRole("button", { name: "Store the people" }).click();
  await expect(desk.getByRole("list", { name: "People of the deal" }).getByRole("listitem").first()).toContainText(
    "main contact",
  );
  await expect(desk.getByRole("region", { name: "History" })).toContainText("(main contact)");
});

test("a company is written down once, found in its list, and its contacts are added from it", async ({
  desk,
  program,
}) => {
  await desk.goto(`${program.url}/companies`);
  await desk.getByRole("button", { name: "New company" }).click();
  const form = desk.getByRole("dialog", { name: "New company" });
  await form.getByRole("button", { name: "Add the company" }).click();
  await expect(form.getByRole("alert")).toContainText("give it a name");
  await form.getByLabel("Company", { exact: true }).fill("Ünal & Töchter");
  await form.getByLabel("Company city").fill("Harrowmere");
  await form.getByRole("button", { name: "Add the company" }).click();
  await expect(desk.getByRole("heading", { name: "Ünal & Töchter" })).toBeVisible();
  await desk.getByRole("button", { name: "More about this company" }).click();
  await desk.getByRole("menuitem", { name: "New contact here" }).click();
  const person = desk.getByRole("dialog", { name: "New contact" });
  await expect(person.getByRole("combobox", { name: "Company" })).toHaveValue("Ünal & Töchter");
  await person.getByLabel("Last name").fill("Ünal");
  await person.getByRole("button", { name: "Add the contact" }).click();
  await expect(desk.getByText(/^Contact at Ünal & Töchter/)).toBeVisible();
  await desk.goto(`${program.url}/companies?q=Ünal`);
  const row = desk.getByRole("table", { name: "Companies" }).getByRole("row").last();
  await expect(row).toContainText("Ünal & Töchter");
  await expect(row.getByRole("cell").nth(4)).toHaveText("1");
  // The same name a second time is refused with where it is.
  await desk.getByRole("button", { name: "New company" }).click();
  await form.getByLabel("Company", { exact: true }).fill("ünal  &  töchter");
  await form.getByRole("button", { name: "Add the company" }).click();
  await expect(form.getByRole("alert")).toContainText("is there already, in Harrowmere");
});

test("two records of one person become one, and two again", async ({ desk, program }) => {
  const make = async (values: Record<string, string>) => {
    const made = await desk.request.post(`${program.url}/api/records/person`, { data: { kind: "lead", values } });
    return (await made.json()).id as number;
  };
  const kept = await make({ "person.first_name": "Ottilie", "person.last_name": "Quenby", "person.city": "York" });
  const gone = await make({
    "person.first_name": "Ottilie",
    "person.last_name": "Quenbey",
    "person.email": "ottilie@quenby.example",
    "person.city": "Leeds",
  });
  await desk.goto(`${program.url}/people/${kept}`);
  await desk.getByRole("button", { name: "More about this person" }).click();
  await desk.getByRole("menuitem", { name: "Merge another record into this one" }).click();
  const form = desk.getByRole("dialog", { name: "Merge another record into Ottilie Quenby" });
  await expect(form.getByRole("button", { name: "Merge" })).toBeDisabled();
  await form.getByRole("combobox", { name: "The other record" }).fill("quenb");
  await desk.getByRole("option", { name: /Quenbey/ }).click();
  // What only the other has is taken; where both say something, this one stays unless told otherwise.
  await expect(form.getByRole("group", { name: "Email" }).getByLabel("ottilie@quenby.example")).toBeChecked();
  await expect(form.getByRole("group", { name: "City" }).getByLabel("York")).toBeChecked();
  await form.getByRole("group", { name: "City" }).getByLabel("Leeds").check();
  await form.getByRole("button", { name: "Merge" }).click();
  await expect(form).toBeHidden();
  await expect(desk.getByText("Leeds").first()).toBeVisible();
  await expect(desk.getByText("Merged with a second record of Ottilie Quenbey")).toBeVisible();
  await expect(desk.getByText("ottilie@quenby.example").first()).toBeVisible();

  await desk.getByRole("button", { name: "Undo" }).click();
  await expect(desk.getByText("There are two records again.")).toBeVisible();
  await expect(desk.getByText("York").first()).toBeVisible();
  await desk.goto(`${program.url}/people/${gone}`);
  await expect(desk.getByRole("heading", { name: "Ottilie Quenbey" })).toBeVisible();
  await expect(desk.getByText("Leeds").first()).toBeVisible();
  await expect(desk.getByRole("alert")).toHaveCount(0);
});

test("a letter that is open goes on when its person is merged, or the letter is given away, in another window", async ({
  desk,
  program,
}) => {
  const make = async (values: Record<string, string>) => {
    const made = await desk.request.post(`${program.url}/api/records/person`, { data: { kind: "lead", values } });
    return (await made.json()).id as number;
  };
  const kept = await make({ "person.last_name": "Quenby", "person.email": "o@quenby.example" });
  const gone = await make({ "person.last_name": "Quenbey", "person.email": "tilly@quenby.example" });
  const other = await make({ "person.last_name": "Stone", "person.email": "stone@stone.example" });
  await desk.goto(`${program.url}/people/${gone}`);
  await desk.getByRole("heading", { level: 1 }).waitFor();
  await desk.keyboard.press("w");
  await desk.getByRole("combobox", { name: "Search templates" }).fill("Blank");
  await desk.keyboard.press("Enter");
  await desk.getByRole("textbox", { name: "Subject" }).fill("Hello");
  const words = desk.getByRole("textbox", { name: "Letter" });
  await words.fill("Are you there?");
  await expect(desk.getByRole("button", { name: /^Send to Quenbey/ })).toBeEnabled();
  const sheet = await (await desk.request.get(`${program.url}/api/people/${kept}`)).json();
  await desk.request.post(`${program.url}/api/people/${kept}/merge`, {
    data: { version: sheet.person.version, otherId: gone, take: [] },
  });
  await words.press("Control+End");
  await desk.keyboard.type(" More.");
  await expect(desk.getByRole("button", { name: /^Send to Quenby/ })).toBeEnabled();
  await expect(words).toContainText("Are you there? More.");

  const id = desk.url().split("/").pop();
  const letter = await (await desk.request.get(`${program.url}/api/letters/${id}`)).json();
  await desk.request.post(`${program.url}/api/letters/${id}/addressee`, {
    data: {
      personId: kept,
      version: letter.version,
      subject: letter.subjectDoc,
      body: letter.body,
      toPersonId: other,
      alsoTo: [],
    },
  });
  await words.press("Control+End");
  await desk.keyboard.type(" Still?");
  await desk.getByRole("button", { name: "Keep this version" }).click();
  await expect(desk.getByText("This letter was given to somebody else in another window.")).toBeVisible();
  await expect(desk.getByRole("button", { name: /^Send to Quenby/ })).toBeEnabled();
  await expect(words).toContainText("Are you there? More. Still?");
  const given = await (await desk.request.get(`${program.url}/api/letters/${id}`)).json();
  expect(JSON.stringify(given.body)).not.toContain("Still?");
  expect(given.person).toBe("Stone");
});
