import { expect, signIn, test } from "../fixtures.ts";

// One template, one name: a lead adds its wording in another language, and who reads that language gets it.
test("a template speaks the language that its reader reads", async ({ page, program }) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  const added = await page.request.post(`${program.url}/api/people`, {
    data: { text: "Ilse Brandt <ilse@brandt.example>" },
  });
  const { id, version } = await added.json();
  const reads = { version, set: { "person.language": "Italian" } };
  expect((await page.request.patch(`${program.url}/api/people/${id}`, { data: reads })).status()).toBe(200);
  await page.goto(`${program.url}/templates?q=thank`);
  await page.getByRole("link", { name: "Thank you for the order" }).click();
  const languages = page.getByRole("navigation", { name: "Languages of this template" });
  await languages.getByRole("button", { name: "Another language" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByLabel("Language").selectOption({ label: "Italian" });
  await dialog.getByRole("button", { name: "Add the wording in Italian" }).click();
  await expect(languages.getByRole("link", { name: "Italian (draft)" })).toHaveAttribute("aria-current", "page");
  await expect(page.getByLabel("Name (recipients never see it)")).toHaveAttribute("readonly", "");

  // A draft is offered to nobody, and says that it is not yet in its language.
  await expect(page.getByRole("complementary", { name: "Margin notes" })).toContainText("reads like English");
  await page.getByLabel("Subject").fill("Grazie per il suo ordine");
  await page
    .getByLabel("Letter")
    .fill(
      "Buongiorno {{person.first_name|}},\n\ngrazie per il suo ordine. Siamo molto contenti di lavorare con voi.\n\nCordiali saluti,",
    );
  await page.getByRole("button", { name: "Make ready" }).click();
  await expect(languages.getByRole("link", { name: "Italian" })).toBeVisible();

  await page.goto(`${program.url}/people/${id}`);
  await page.getByRole("heading", { level: 1 }).waitFor();
  await page.keyboard.press("w");
  await page.getByRole("combobox", { name: "Search templates" }).fill("thank you for the order");
  const preview = page.getByRole("region", { name: "Preview" });
  await expect(preview).toContainText("Buongiorno Ilse,");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("textbox", { name: "Letter" })).toContainText("Buongiorno Ilse,");

  // The library has one line for both, found by the words of either.
  await page.goto(`${program.url}/templates?q=ordine`);
  const list = page.getByRole("list", { name: "Templates" });
  await expect(list.getByRole("listitem")).toHaveCount(1);
  await expect(list).toContainText("English, Italian");

  // What is deleted comes back.
  await page.getByRole("link", { name: "Thank you for the order" }).click();
  await languages.getByRole("link", { name: "Italian" }).click();
  await page.getByText("Settings", { exact: true }).click();
  await page.getByRole("button", { name: "Delete this wording" }).click();
  await page.getByRole("dialog").getByRole("button", { name: "Delete the template" }).click();
  await expect(languages.getByRole("link", { name: "Italian" })).toHaveCount(0);
  await page.getByRole("button", { name: "Undo" }).click();
  await page.reload();
  await expect(languages.getByRole("link", { name: "Italian" })).toBeVisible();
});
