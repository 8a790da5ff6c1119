import { writeFileSync } from "node:fs";
import { expect, switchTo, test } from "../fixtures.ts";

const header =
  "Kind,Honorific,First name,Last name,Email,Phone,Job title,City,Country,Language,Time zone,Company,Website,Employees,Deal,Value,Stage,Close date,Cold-room volume,Inspection date";
const columns = header.split(",");

/** A row from some of its cells; the name and the address are its own. */
function row(i: number, cells: Record<string, string>): string {
  const all: Record<string, string> = {
    Kind: "contact",
    "First name": "Ida",
    "Last name": `Row${i}`,
    Email: `row${i}@trouble.example`,
    ...cells,
  };
  return columns
    .map((c) => (/[",\n]/.test(all[c] ?? "") ? `"${(all[c] ?? "").replaceAll('"', '""')}"` : (all[c] ?? "")))
    .join(",");
}

/** Sixty troubles: the cells of a row, what is said of it ("" when it is taken as it is), and the cells when it is mended. */
const long = (n: number) => "a".repeat(n);
const troubles: [Record<string, string>, string, Record<string, string>?][] = [
  [{ Email: "no address" }, "is not an email address"],
  [{ Email: "a@@b.example" }, "is not an email address"],
  [{ Email: "a@" }, "is not an email address"],
  [{ Email: "@b.example" }, "is not an email address"],
  [{ Email: "a b@c.example" }, "is not an email address"],
  [{ Email: `${long(300)}@b.example` }, "Email"],
  [{ Kind: "customer" }, "is neither lead nor contact"],
  [{ Kind: "company" }, "is neither lead nor contact"],
  [{ "First name": long(1200) }, "First name"],
  [{ "Last name": long(1200) }, "Last name"],
  [{ City: long(1200) }, "City"],
  [{ "Job title": long(1200) }, "Job title"],
  [{ Company: long(1200) }, "Company"],
  [{ Language: "Klingonese" }, "is not a language"],
  [{ Language: "xx-YY-zz" }, "is not a language"],
  [{ "Time zone": "Mars/Olympus" }, "is not a time zone"],
  [{ "Time zone": "Local" }, "is not a time zone"],
  [{ Company: "Firm A", Website: "javascript:alert(1)" }, "Website"],
  [{ Company: "Firm A", Website: "not a site" }, "Website"],
  [{ Website: "firm.example" }, "the row names none (company.name)"],
  [{ Employees: "12" }, "the row names none (company.name)"],
  [{ Value: "100 EUR" }, "the row names none (deal.name)"],
  [{ Stage: "quoted" }, "the row names none (deal.name)"],
  [{ "Close date": "2027-01-01" }, "the row names none (deal.name)"],
  [{ Deal: "Room", Stage: "dreaming" }, "Stage"],
  [{ Deal: "Room", Value: "a lot" }, "Value"],
  [{ Deal: "Room", Value: "12.3456 EUR" }, "Value"],
  [{ Deal: "Room", Value: "100 QQQ" }, "Value"],
  [{ Deal: "Room", "Close date": "soon" }, "Close date"],
  [{ Deal: "Room", "Close date": "2027-02-30" }, "Close date"],
  [{ Deal: long(1200) }, "Deal"],
  [{ Kind: "lead", "Cold-room volume": "big" }, "Cold-room volume"],
  [{ Kind: "lead", "Cold-room volume": "1,2,3" }, "Cold-room volume"],
  [{ Deal: "Room", "Inspection date": "31.02.2026" }, "Inspection date"],
  [{ Deal: "Room", "Inspection date": "yesterday" }, "Inspection date"],
  [{ "First name": "", "Last name": "", Email: "" }, "has neither a name nor an address"],
  [{ "First name": "", "Last name": "", Email: "", City: "York" }, "has neither a name nor an address"],
  [{ Email: "row1@twice.example", "Last name": "Same" }, ""],
  [{ Email: "ROW1@twice.example", "Last name": "Same" }, "stands in line"],
  [{ "First name": 'O\'Hara "Oven"' }, ""],
  [{ "First name": "{{person.email}}" }, ""],
  [{ "First name": "=HYPERLINK(1)" }, ""],
  [{ "First name": "שלום", "Last name": "עולם" }, ""],
  [{ "First name": "👩‍🚀" }, ""],
  [{ "Last name": "Robert'); DROP TABLE people;--" }, ""],
  [{ City: "a\nb" }, "City", { City: "a b" }],
  [{ "Job title": "n/a" }, ""],
  [{ "First name": "IDA" }, ""],
  [{ Phone: "not a phone" }, ""],
  [{ Phone: "+44 20 7946 0018" }, ""],
  [{ Country: "Deutschland" }, ""],
  [{ Company: "Firm A", Employees: "12" }, ""],
  [{ Company: "firm  a", Employees: "twelve" }, "Employees"],
  [{ Deal: "Room of this row", Value: "9.500,00 EUR" }, ""],
  [{ Kind: "lead", "Cold-room volume": "22.50" }, ""],
  [{ Deal: "Room to inspect", "Inspection date": "2026-03-02" }, ""],
  [{ Honorific: "Dr." }, ""],
  [{ "First name": "  Ida  Jo " }, ""],
  [{ Email: "" }, ""],
  [{ "First name": "Zoë", "Last name": "Ünal-O’Brien" }, ""],
];

test("a file of sixty troubles: each is named with its line and column, the file is mended, imported and taken back", async ({
  desk,
  program,
}, info) => {
  test.setTimeout(120_000);
  expect(troubles.length).toBe(60);
  const file = info.outputPath("trouble.csv");
  writeFileSync(file, [header, ...troubles.map(([cells], i) => row(i, cells))].join("\n"));
  await desk.goto(`${program.url}/people/import`);
  const choose = desk.locator("input[type=file]");
  await choose.setInputFiles(file);
  const happens = desk.getByRole("region", { name: "What will happen" });
  await expect(happens).toContainText("60 rows");
  const said = await happens.getByRole("listitem").allInnerTexts();
  let line = 2;
  for (const [cells, words] of troubles) {
    const mine = said.filter((s) => s.startsWith(`line ${line}\n`) || s.startsWith(`line ${line} `));
    expect(mine.length, `line ${line}: ${JSON.stringify(cells).slice(0, 80)} ${mine}`).toBe(words ? 1 : 0);
    if (words) expect(mine[0]).toContain(words);
    line += 1 + (Object.values(cells).join("").match(/\n/g) ?? []).length;
  }
  const refused = troubles.filter(([, words]) => words).length;
  await expect(happens).toContainText(`${refused} refused`);
  await expect(desk.getByRole("button", { name: /^Import \d/ })).toBeDisabled();
  const before = await (await desk.request.get(`${program.url}/api/people/count`)).json();

  // The same file, mended: what was refused has good cells now. Capitals are set right on the way.
  writeFileSync(
    file,
    [header, ...troubles.map(([cells, words, mended], i) => row(i, words ? (mended ?? {}) : cells))].join("\n"),
  );
  await choose.setInputFiles(file);
  await expect(happens).toContainText("0 refused");
  await desk
    .getByRole("group", { name: "Tidy up while importing" })
    .getByRole("checkbox", { name: /^Fix capitals/ })
    .check();
  await expect(desk.getByText("“IDA” → “Ida”")).toBeVisible();
  const go = desk.getByRole("button", { name: "Import 60 people" });
  await expect(go).toBeEnabled();
  await go.click();
  await expect(desk.getByText(/^60 added, 0 updated, 0 already the same\./)).toBeVisible();
  const after = await (await desk.request.get(`${program.url}/api/people/count`)).json();
  expect(after.count).toBe(before.count + 60);
  const { people } = await (await desk.request.get(`${program.url}/api/people?q=DROP`)).json();
  expect(people[0].lastName).toBe("Robert'); DROP TABLE people;--");

  // Somebody else sees nothing of it; whoever imported it takes it back, but for who was worked on.
  const kept = people[0].id;
  await desk.request.post(`${program.url}/api/letters`, { data: { personId: kept } });
  const earlier = desk.getByRole("region", { name: "Earlier imports" });
  const past = earlier.getByRole("listitem").filter({ hasText: "trouble.csv" }).first();
  await expect(past).toContainText("60 people added");
  await past.getByRole("button", { name: "Undo this import" }).click();
  await expect(past).toContainText("undone");
  await expect(desk.getByText(/^60 added/)).toHaveCount(0);
  await expect(past).toContainText("DROP TABLE people;-- has a letter");
  await expect(past.getByRole("button", { name: "Undo this import" })).toHaveCount(0);
  const now = await (await desk.request.get(`${program.url}/api/people/count`)).json();
  expect(now.count).toBe(before.count + 1);
  await switchTo(desk, program.url, "celia@fernhollow.example");
  await desk.goto(`${program.url}/people/import`);
  await expect(desk.getByLabel(/Choose a CSV file/)).toBeAttached();
  await expect(earlier).toHaveCount(0);
});

test("a long import is left and found again, and a column gets a new field and is remembered", async ({
  desk,
  program,
}, info) => {
  test.setTimeout(120_000);
  const file = info.outputPath("many.csv");
  const rows = Array.from({ length: 1500 }, (_, i) => `Ida,Many${i},many${i}@many.example,${i % 50}`);
  writeFileSync(file, `First,Last,Email,Shelf metres\n${rows.join("\n")}\n`);
  await switchTo(desk, program.url, "greta@fernhollow.example");
  await desk.goto(`${program.url}/people/import`);
  await desk.locator("input[type=file]").setInputFiles(file);
  await desk.getByLabel("Field for Shelf metres").selectOption("add a new field …");
  const dialog = desk.getByRole("dialog", { name: "New field" });
  await expect(dialog.getByLabel("Name")).toHaveValue("Shelf metres");
  await expect(dialog.getByLabel("Type")).toHaveValue("number");
  await dialog.getByRole("button", { name: "Add the field" }).click();
  await expect(desk.getByLabel("Field for Shelf metres")).toHaveValue("person.own.shelf_metres");
  await desk.getByRole("button", { name: "Import 1,500 people" }).click();
  await expect(desk.getByText("You can leave this page")).toBeVisible();
  await desk.goto(`${program.url}/people`);
  await desk.goto(`${program.url}/people/import`);
  const past = desk.getByRole("listitem").filter({ hasText: "many.csv" }).first();
  await expect(past).toContainText("1,500 people added", { timeout: 60_000 });
  await past.getByRole("button", { name: "Undo this import" }).click();
  await expect(past).toContainText("undone: 1,500 records are as before", { timeout: 60_000 });
  // The next file has the column where it was put.
  writeFileSync(file, "First,Email,Shelf metres\nIda,ida@many.example,12\n");
  await desk.locator("input[type=file]").setInputFiles(file);
  await expect(desk.getByLabel("Field for Shelf metres")).toHaveValue("person.own.shelf_metres");
  await expect(desk.getByRole("row", { name: /Shelf metres/ })).toContainText("same as last time");
});
