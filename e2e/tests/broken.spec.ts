import { expect, lead, template, test } from "../fixtures.ts";

test("a sentence that breaks where a value is empty stops the letter until it reads well", async ({
  desk,
  program,
}) => {
  const { url } = program;
  const id = await lead(desk, url, {
    "person.first_name": "Edda",
    "person.last_name": "Quarn",
    "person.email": "e@quarn.example",
  });
  await template(
    desk,
    url,
    "Where we met",
    "Your room",
    "Dear {{person.first_name}},\n\nThank you for the time that you took. We met in {{person.city|}}, near {{company.name|}}.",
  );
  await desk.goto(`${url}/people/${id}`);
  await desk.getByRole("button", { name: /^Write to/ }).waitFor();
  await desk.keyboard.press("w");
  await desk.getByRole("combobox", { name: "Search templates" }).fill("where we met");
  await desk.keyboard.press("Enter");
  const letter = desk.getByRole("textbox", { name: "Letter" });
  const margin = desk.getByRole("complementary", { name: "Margin notes" });
  await expect(letter).toContainText("We met in, near.");
  await expect(margin.getByText(/this no longer reads/)).toHaveCount(1);
  await desk.keyboard.press("Control+Enter");
  await expect(desk.getByRole("dialog", { name: /^Proof for/ })).toBeHidden();
  // Words in the gap settle the first; its writer says so of the other, and can take that back.
  await letter.getByText("We met in").click();
  await desk.keyboard.press("End");
  await desk.keyboard.type(" Ends with the wall.");
  await expect(margin.getByText(/this no longer reads/)).toHaveCount(1);
  await margin.getByRole("button", { name: "It reads well" }).click();
  await expect(margin.getByText(/this no longer reads/)).toHaveCount(0);
  await letter.press("Control+z");
  await expect(margin.getByText(/this no longer reads/)).toHaveCount(1);
  await letter.press("Control+a");
  await desk.keyboard.type("We met by the wall.");
  await expect(margin.getByText(/this no longer reads/)).toHaveCount(0);
  await desk.reload();
  await expect(letter).toHaveText("We met by the wall.");
});

test("a second template leaves its greeting and sign-off behind, and brings them when asked", async ({
  desk,
  program,
}) => {
  const { url } = program;
  const id = await lead(desk, url, {
    "person.first_name": "Odo",
    "person.last_name": "Quarn",
    "person.email": "o@quarn.example",
  });
  await template(
    desk,
    url,
    "First of two",
    "Your room",
    "Dear {{person.first_name}},\n\nThe room is ready.\n\nKind regards,",
  );
  await template(
    desk,
    url,
    "Second of two",
    "Hours",
    "Hello {{person.first_name}},\n\nWe open at nine.\n\nBest wishes,",
  );
  await desk.goto(`${url}/people/${id}`);
  await desk.getByRole("button", { name: /^Write to/ }).waitFor();
  await desk.keyboard.press("w");
  await desk.getByRole("combobox", { name: "Search templates" }).fill("first of two");
  await desk.keyboard.press("Enter");
  const letter = desk.getByRole("textbox", { name: "Letter" });
  await expect(letter).toContainText("The room is ready.");
  await letter.getByText("The room is ready.").click();
  await desk.keyboard.press("End");
  await desk.keyboard.press("Enter");
  await desk.getByRole("button", { name: "Insert", exact: true }).click();
  await desk.getByRole("combobox", { name: "Search templates" }).fill("second of two");
  await desk.keyboard.press("Enter");
  await expect(letter).toContainText("We open at nine.");
  await expect(letter).not.toContainText("Hello Odo");
  await expect(letter).not.toContainText("Best wishes");
  await desk.getByRole("button", { name: "Add the greeting and sign-off" }).click();
  await expect(letter).toContainText("Hello Odo");
  await expect(letter).toContainText("Best wishes");
  const margin = desk.getByRole("complementary", { name: "Margin notes" });
  await expect(margin).toContainText("The letter greets twice.");
  await expect(margin).toContainText("The letter says goodbye twice.");
});
