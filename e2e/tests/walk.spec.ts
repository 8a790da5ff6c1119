import { resolve } from "node:path";
import { simpleParser } from "mailparser";
import { expect, pickTemplate, test } from "../fixtures.ts";

const csv = resolve(import.meta.dirname, "../../internal/demo/data/prospects.csv");

test("from a file to a letter at the post office and in the history", async ({ desk, program }) => {
  // Import: first the check, then the doing.
  await desk.goto(program.url);
  await desk.getByRole("button", { name: /^Account of/ }).click();
  await desk.getByRole("menuitem", { name: "Import people" }).click();
  await desk.getByLabel(/Choose a CSV file/).setInputFiles(csv);
  await expect(desk.getByText("6 rows: 6 would be added")).toBeVisible();
  await expect(desk.getByLabel("Field for Town")).toHaveValue("person.city");
  await desk.getByRole("button", { name: "Import 6 people" }).click();
  await expect(desk.getByText("6 added, 0 updated")).toBeVisible();

  // People, by keyboard.
  await desk.getByRole("link", { name: "People", exact: true }).click();
  await expect(desk.getByText(/^4\d\d people$/)).toBeVisible();
  await desk.keyboard.press("/");
  await desk.keyboard.type("kaltenbach brot");
  await expect(desk.getByText("1 person")).toBeVisible();
  await desk.keyboard.press("Enter");
  await expect(desk.getByRole("heading", { name: "Jürgen Kaltenbach" })).toBeVisible();
  await expect(desk.getByRole("region", { name: "History" })).toContainText("added from a file");

  // Template, merged.
  await desk.getByRole("heading", { level: 1 }).waitFor();
  await desk.keyboard.press("w");
  const picker = desk.getByRole("dialog", { name: "Write to Jürgen Kaltenbach" });
  await picker.getByRole("combobox").fill("answer to an enquiry");
  // He reads German, so the German wording is offered; the writer takes the English one.
  await expect(picker.getByRole("region", { name: "Preview" })).toContainText("Volumen in m³: 24,5");
  await picker.getByRole("button", { name: "Use it in English" }).click();

  // Desk: merged words are marked, one is corrected.
  const body = desk.getByRole("textbox", { name: "Letter" });
  await expect(body.locator(".merged", { hasText: "Jürgen" })).toHaveAttribute("data-merged", "person.first_name");
  await body.getByText("as I noted").or(body.getByText("here is what I noted")).click();
  await desk.keyboard.press("End");
  await desk.keyboard.type(" yesterday 🙂");
  await expect(desk.getByText("Saved", { exact: true })).toBeVisible();
  await expect(desk.getByText("Nothing is missing. Ready to send.")).toBeVisible();

  // Proof, then send.
  await desk.getByRole("button", { name: "Proof" }).click();
  const proof = desk.getByRole("dialog", { name: "Proof for Jürgen Kaltenbach" });
  await expect(proof).toContainText("Jürgen Kaltenbach <juergen@kaltenbach-brot.example>");
  await expect(proof).toContainText("yesterday 🙂");
  await proof.getByText("Headers").click();
  await expect(proof).toContainText(/mime-version/i);
  await proof.getByRole("button", { name: "Send to Jürgen Kaltenbach" }).click();

  // Filed with the person.
  const filed = desk.getByRole("article", { name: /^Letter: / });
  await expect(filed.getByText(/Filed as it was sent/)).toBeVisible();
  await expect(filed).toContainText("yesterday 🙂");
  await expect(desk.getByRole("region", { name: "History" })).toContainText("Your question about a cold room");
  const source = await filed.getByRole("link", { name: "Save as .eml" }).getAttribute("href");
  const ours = await (await desk.request.get(program.url + source)).body();

  // The post office has the same bytes.
  await desk.goto(`${program.url}/post-office`);
  await desk.getByRole("link", { name: /^juergen@kaltenbach-brot\.example/ }).click();
  const received = desk.getByRole("article", { name: "Received: Your question about a cold room" });
  await expect(received).toContainText("yesterday 🙂");
  await received.getByText("Raw source").click();
  const raw = await received.getByRole("region", { name: "Raw source" }).textContent();
  expect(raw).toBe(ours.toString("utf8"));

  // An independent reader sees what was written (npm mailparser).
  const read = await simpleParser(ours);
  expect(read.subject).toBe("Your question about a cold room");
  expect(read.from?.value).toEqual([{ name: "Imre Falk", address: "imre@fernhollow.example" }]);
  expect(read.to).toMatchObject({ value: [{ name: "Jürgen Kaltenbach", address: "juergen@kaltenbach-brot.example" }] });
  expect(read.text).toContain("Here is what I noted: yesterday 🙂\n\n- Volume in m³: 24.5\n- Town: Oberwalden\n");
});

test("a gap is filled in the margin, save on the record too, and nothing incomplete goes", async ({
  desk,
  program,
}) => {
  const answer = await desk.request.get(`${program.url}/api/people?kind=lead&limit=500`);
  const { people } = (await answer.json()) as {
    people: { id: number; firstName: string; lastName: string; email: string }[];
  };
  const nameless = people.find((p) => !p.firstName && p.email);
  expect(nameless).toBeDefined();
  await desk.goto(`${program.url}/people/${nameless?.id}`);
  await desk.getByRole("heading", { level: 1 }).waitFor();
  await desk.keyboard.press("w");
  await desk.getByRole("combobox", { name: "Search templates" }).fill("Sorry I missed you");
  await expect(desk.getByText("1 value is missing")).toBeVisible();
  await desk.keyboard.press("Enter");
  await expect(desk.getByRole("button", { name: "Missing: First name" })).toBeDisabled();
  await desk.keyboard.press("Control+Enter");
  await expect(desk.getByRole("img", { name: "missing: First name" })).toBeVisible();

  const margin = desk.getByRole("complementary", { name: "Margin notes" });
  await margin.getByLabel("save on the record too").check();
  await margin.getByRole("textbox", { name: "First name" }).fill("Josefa");
  await desk.keyboard.press("Enter");
  await expect(desk.getByRole("textbox", { name: "Letter" })).toContainText("Hello Josefa,");
  await desk.getByRole("button", { name: `Send to Josefa ${nameless?.lastName}` }).click();
  await expect(desk.getByText(/Filed as it was sent/)).toBeVisible();
  await expect(desk.getByRole("heading", { name: `Josefa ${nameless?.lastName}` })).toBeVisible();
  await expect(desk.getByRole("region", { name: "History" })).toContainText("First name: Josefa");
});

test("somebody without an address: said in the picker, filled at the desk for the letter alone", async ({
  desk,
  program,
}) => {
  const { people } = (await (await desk.request.get(`${program.url}/api/people?limit=200`)).json()) as {
    people: { id: number; firstName: string; email: string }[];
  };
  const one = people.find((p) => !p.email && p.firstName);
  expect(one).toBeDefined();
  await desk.goto(`${program.url}/people/${one?.id}`);
  await desk.getByRole("button", { name: /^Write to/ }).click();
  await expect(desk.getByText(/has no email address. You can add it/)).toBeVisible();
  await desk.getByRole("combobox", { name: "Search templates" }).fill("an empty letter");
  await desk.keyboard.press("Enter");
  await desk.getByRole("textbox", { name: "Subject" }).fill("A word");
  await desk.getByRole("textbox", { name: "Letter" }).fill("Hello, only a word.");
  const margin = desk.getByRole("complementary", { name: "Margin notes" });
  const address = margin.getByRole("textbox", { name: "Email address" });
  await address.fill("no address");
  await address.press("Enter");
  await expect(margin).toContainText('Email: "no address" is not an email address');
  await address.fill("found.it@quill.example");
  await address.press("Enter");
  await expect(desk.getByRole("region", { name: "Dispatch" })).toContainText("<found.it@quill.example>");
  await desk.getByRole("button", { name: /^Send to / }).click();
  await expect(desk.getByText("Filed as it was sent")).toBeVisible();
  const list = await (await desk.request.get(`${program.url}/api/post-office/found.it@quill.example`)).json();
  expect(list).toHaveLength(1);
  const after = await (await desk.request.get(`${program.url}/api/people/${one?.id}`)).json();
  expect(after.person.email).toBe("");
});

test("blanks are answered in the margin, a colleague fills in at once", async ({ desk, program }) => {
  const made = await desk.request.post(`${program.url}/api/templates`, {
    data: {
      name: "Invitation with a host",
      whenToUse: "",
      subject: "A visit",
      body: 'Dear {{person.last_name}},\n\n{{?reason: text "Why should they come?"}}\n{{#person.city}}\nIn {{person.city}}?\n{{/person.city}}\n{{?host: colleague}}, {{?host.email}}',
      state: "ready",
    },
  });
  expect(made.ok()).toBe(true);
  await pickTemplate(desk, program.url, "q=lower+fenby&kind=lead", "invitation with a host");
  await expect(desk.getByRole("region", { name: "Preview" })).toContainText("In Lower Fenby?");
  await desk.keyboard.press("Enter");
  const margin = desk.getByRole("complementary", { name: "Margin notes" });
  await expect(margin).toContainText("Why should they come?");
  await margin.getByLabel("Reason").fill("It is cold inside.");
  await desk.keyboard.press("Enter");
  await margin.getByLabel("Host").selectOption("Greta Holm");
  await expect(desk.getByRole("textbox", { name: "Letter" })).toContainText("Greta Holm, greta@fernhollow.example");
  await expect(desk.getByText("Nothing is missing. Ready to send.")).toBeVisible();
  await desk.getByRole("button", { name: "Discard draft" }).click();
});

test("words that are typed while a value goes in are kept", async ({ desk, program }) => {
  await desk.request.post(`${program.url}/api/templates`, {
    data: {
      name: "Two blanks",
      whenToUse: "",
      subject: "A question",
      body: 'Dear {{person.last_name}},\n\n{{?room: text "Which room?"}} in {{?month: text "Which month?"}}?\n\nYours',
      state: "ready",
    },
  });
  await pickTemplate(desk, program.url, "q=lower+fenby&kind=lead", "two blanks");
  await expect(desk.getByRole("region", { name: "Preview" })).toContainText("Yours");
  await desk.keyboard.press("Enter");
  let go = () => {};
  const held = new Promise<void>((resolve) => {
    go = resolve;
  });
  await desk.route("**/fill", async (route) => {
    await held;
    await route.continue();
  });
  const margin = desk.getByRole("complementary", { name: "Margin notes" });
  await margin.getByLabel("Room").fill("The red room");
  await desk.keyboard.press("Enter");
  await margin.getByLabel("Month").fill("June");
  await desk.keyboard.press("Enter");
  const letter = desk.getByRole("textbox", { name: "Letter" });
  await letter.getByText("Yours").click();
  await desk.keyboard.press("End");
  await desk.keyboard.type(" truly");
  await expect(letter).not.toContainText("The red room");
  go();
  await expect(letter).toContainText("The red room in June?");
  await desk.keyboard.type(", Imre");
  await expect(letter).toContainText("Yours truly, Imre");
  await expect(desk.getByText("Saved", { exact: true })).toBeVisible();
  await desk.reload();
  await expect(letter).toContainText("The red room in June?");
  await expect(letter).toContainText("Yours truly, Imre");
});

test("a value that stands for none is asked about, a name in capitals is offered set right", async ({
  desk,
  program,
}) => {
  const answer = await desk.request.get(`${program.url}/api/people?kind=lead&limit=500`);
  const { people } = (await answer.json()) as {
    people: { id: number; firstName: string; lastName: string; email: string }[];
  };
  const open = async (id: number | undefined) => {
    await desk.goto(`${program.url}/people/${id}`);
    await desk.getByRole("heading", { level: 1 }).waitFor();
    await desk.keyboard.press("w");
    await desk.getByRole("combobox", { name: "Search templates" }).fill("Sorry I missed you");
    await desk.getByRole("region", { name: "Preview" }).getByText("just tried").waitFor();
    await desk.keyboard.press("Enter");
  };
  const margin = desk.getByRole("complementary", { name: "Margin notes" });
  await open(people.find((p) => p.firstName === "n/a" && p.email)?.id);
  await expect(margin).toContainText("The record says “n/a”, which counts as missing.");
  await margin.getByRole("button", { name: /^Use it anyway/ }).click();
  await expect(desk.getByRole("textbox", { name: "Letter" })).toContainText("Hello n/a,");
  await desk.getByRole("button", { name: "Discard draft" }).click();

  const loud = people.find(
    (p) => p.email && p.firstName.length > 2 && p.firstName === p.firstName.toUpperCase() && p.firstName !== "N/A",
  );
  await open(loud?.id);
  await expect(margin).toContainText(`First name is spelled ${loud?.firstName}.`);
  await margin.getByRole("button", { name: "Change in this letter" }).click();
  const repaired = `${loud?.firstName.charAt(0)}${loud?.firstName.slice(1).toLowerCase()}`;
  await expect(desk.getByRole("textbox", { name: "Letter" })).toContainText(`Hello ${repaired},`);
  await desk.getByRole("button", { name: "Discard draft" }).click();
});

test("who opted out gets nothing", async ({ desk, program }) => {
  const answer = await desk.request.get(`${program.url}/api/people?limit=500`);
  const { people } = (await answer.json()) as { people: { id: number; optedOut: boolean; email: string }[] };
  await desk.goto(`${program.url}/people/${people.find((p) => p.optedOut && p.email)?.id}`);
  await desk.getByRole("heading", { level: 1 }).waitFor();
  await desk.keyboard.press("w");
  await desk.getByRole("combobox", { name: "Search templates" }).fill("Closing your file");
  await desk.keyboard.press("Enter");
  await expect(desk.getByRole("button", { name: "Do not contact" })).toBeDisabled();
  await expect(desk.getByRole("complementary", { name: "Margin notes" })).toContainText("unsubscribed on");
  await desk.getByRole("textbox", { name: "Letter" }).click();
  await desk.keyboard.press("Control+End");
  await desk.keyboard.type(" On ____ at [Company].");
  await expect(desk.getByRole("complementary", { name: "Margin notes" })).toContainText(
    "____ looks like an unfilled placeholder",
  );
  await expect(desk.getByRole("complementary", { name: "Margin notes" })).toContainText(
    "[Company] looks like an unfilled placeholder",
  );
  await desk.getByRole("button", { name: "Discard draft" }).click();
  await expect(desk.getByRole("heading", { level: 1 })).toBeVisible();
});

test("fixed wording cannot be changed at the desk, what stands around it can", async ({ desk, program }) => {
  const made = await desk.request.post(`${program.url}/api/templates`, {
    data: {
      name: "Terms in our words",
      whenToUse: "",
      subject: "Our terms",
      body: "Dear {{person.last_name}},\n\n{{fixed}}\nThe offer to {{person.last_name}} holds for 30 days.\n{{/fixed}}\n\nYours",
      state: "ready",
    },
  });
  expect(made.ok()).toBe(true);
  await pickTemplate(desk, program.url, "q=lower+fenby&kind=lead", "terms in our words");
  await expect(desk.getByRole("region", { name: "Preview" })).toContainText("holds for 30 days");
  await desk.keyboard.press("Enter");
  const letter = desk.getByRole("textbox", { name: "Letter" });
  await letter.getByText("holds for 30 days").click();
  await desk.keyboard.type("x");
  await desk.keyboard.press("Backspace");
  await expect(desk.getByText("This wording is fixed by the template")).toBeVisible();
  await expect(letter).toContainText("holds for 30 days.");
  await letter.getByText("Yours").click();
  await desk.keyboard.press("End");
  await desk.keyboard.type(" truly");
  await expect(letter).toContainText("Yours truly");
  await expect(desk.getByText("Saved", { exact: true })).toBeVisible();
  await expect(desk.getByRole("button", { name: /^Send to/ })).toBeEnabled();

  // Another program cannot get around it either.
  const id = desk.url().split("/").at(-1);
  const draft = await (await desk.request.get(`${program.url}/api/letters/${id}`)).json();
  const words = [{ type: "paragraph", content: [{ type: "text", text: "The offer holds for 90 days." }] }];
  const changed = await desk.request.put(`${program.url}/api/letters/${id}`, {
    data: {
      personId: draft.personId,
      version: draft.version,
      subject: draft.subjectDoc,
      body: { ...draft.body, content: words },
    },
  });
  const sheet = await changed.json();
  expect(sheet.stops.map((n: { code: string }) => n.code)).toEqual(["fixed"]);
  const send = await desk.request.post(`${program.url}/api/letters/${id}/send`, {
    data: { version: sheet.version, to: sheet.toEmail },
  });
  expect(send.status()).toBe(422);
  await desk.request.delete(`${program.url}/api/letters/${id}`);
});
