import { expect, signIn, test } from "../fixtures.ts";

test("two people change one record at once: the second sees both values, and nothing is lost", async ({
  desk,
  program,
  browser,
}) => {
  const made = await desk.request.post(`${program.url}/api/records/person`, {
    data: { kind: "lead", values: { "person.last_name": "Twice", "person.email": "twice@together.example" } },
  });
  expect(made.ok()).toBe(true);
  const { people } = await (await desk.request.get(`${program.url}/api/people?q=twice@together.example`)).json();
  const address = `${program.url}/people/${people[0].id}`;
  const other = await browser.newPage();
  await signIn(other, program.url, "celia@fernhollow.example");
  for (const page of [desk, other]) {
    await page.goto(address);
    await page.getByRole("button", { name: /empty fields/ }).click();
  }
  const city = (page: typeof desk) => page.getByRole("button", { name: /^City: .*, change$/ });
  const write = async (page: typeof desk, label: string, value: string) => {
    await page.getByRole("button", { name: new RegExp(`^${label}: .*, change$`) }).click();
    await page.getByRole("textbox", { name: label, exact: true }).fill(value);
    await page.keyboard.press("Enter");
  };
  await write(other, "City", "York");
  await expect(city(other)).toHaveText("York");

  // Another field of the same record: both count, nobody is asked anything.
  await write(desk, "Job title", "Owner");
  await expect(desk.getByRole("button", { name: "Job title: Owner, change" })).toBeVisible();

  // The same field, from a page that does not show the other word yet.
  await write(other, "City", "Leeds");
  await expect(city(other)).toHaveText("Leeds");
  await write(desk, "City", "O'Fallon {{x}}");
  const both = desk.getByRole("alert").filter({ hasText: "meanwhile" });
  await expect(both).toHaveText("Somebody else wrote “Leeds” meanwhile. You wrote “O'Fallon {{x}}”.");
  await expect(desk.getByRole("button", { name: "Save mine" })).toBeFocused();
  await desk.keyboard.press("Escape");
  await expect(city(desk)).toHaveText("Leeds");
  await write(other, "City", "Hull");
  await expect(city(other)).toHaveText("Hull");
  await write(desk, "City", "Bath");
  await expect(both).toContainText("wrote “Hull” meanwhile");
  await desk.getByRole("button", { name: "Save mine" }).click();
  await expect(city(desk)).toHaveText("Bath");
  await expect(desk.getByRole("region", { name: "History" })).toContainText("City: Bath");
  await other.close();
});
