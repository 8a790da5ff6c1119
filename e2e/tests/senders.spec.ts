import { arrived, expect, reachable, signIn, switchTo, test } from "../fixtures.ts";

test("a shared address is allowed, signed in its own way, chosen at the desk, and stands in what arrives", async ({
  page,
  program,
}) => {
  await signIn(page, program.url, "otis@fernhollow.example");
  await page.goto(`${program.url}/me`);
  const senders = page.getByRole("region", { name: "From addresses" });
  await senders.getByLabel("Who").selectOption("Nora Lindgren");
  await senders.getByLabel("From name").fill("Fernhollow quotes");
  await senders.getByLabel("Address", { exact: true }).fill("quotes@fernhollow.example");
  await senders.getByRole("button", { name: "Add" }).click();
  await expect(senders).toContainText("Fernhollow quotes <quotes@fernhollow.example>");
  await senders.getByRole("button", { name: "Add" }).click();
  await expect(senders.getByRole("alert")).toContainText("is an address of");

  await switchTo(page, program.url, "nora@fernhollow.example");
  await page.goto(`${program.url}/me`);
  await page.getByLabel("Job title").fill("Quotes and surveys");
  await page.getByLabel("Booking link").fill("not a link");
  await page.getByRole("button", { name: "Save my profile" }).click();
  await expect(page.getByRole("alert")).toBeVisible();
  await page.getByLabel("Booking link").fill("https://fernhollow.example/meet/nora");
  await page.getByRole("button", { name: "Save my profile" }).click();
  await expect(page.getByText("Stored.")).toBeVisible();
  const mine = page.getByRole("region", { name: "Signature of quotes@fernhollow.example" });
  await mine.getByRole("textbox", { name: "Signature for quotes@fernhollow.example" }).click();
  await page.keyboard.press("Control+b");
  await page.keyboard.type("The quotes desk, ");
  await page.keyboard.press("{");
  await page.getByRole("searchbox", { name: "Search fields" }).fill("job title");
  await page.keyboard.press("Enter");
  await mine.getByRole("button", { name: "Save signature" }).click();
  await expect(mine.getByRole("button", { name: "Saved" })).toBeVisible();

  const [to] = await reachable(page, program.url, "contact");
  await page.goto(`${program.url}/people/${to.id}`);
  await page.getByRole("heading", { level: 1 }).waitFor();
  await page.keyboard.press("w");
  await page.getByRole("combobox", { name: "Search templates" }).fill("an empty letter");
  await page.keyboard.press("Enter");
  const letter = page.getByRole("textbox", { name: "Letter" });
  await expect(letter).toContainText("Nora Lindgren");
  await expect(page.getByRole("button", { name: /^Missing/ })).toBeDisabled();
  await page.getByRole("textbox", { name: "Subject" }).fill("About the room");
  await letter.press("Control+Home");
  await page.keyboard.type("Here is the drawing that you asked me for last week.");
  await page.getByLabel("From").selectOption("quotes@fernhollow.example");
  await expect(letter).toContainText("The quotes desk, Quotes and surveys");
  await expect(letter).not.toContainText("Nora Lindgren");
  await page.getByRole("button", { name: /^Send to / }).click();
  await expect(page.getByText("Filed as it was sent")).toBeVisible();
  const read = await arrived(page, program.url, to.email);
  expect(read.from?.value).toMatchObject([{ name: "Fernhollow quotes", address: "quotes@fernhollow.example" }]);
  expect(read.text?.trim()).toBe(
    "Here is the drawing that you asked me for last week.\n\nThe quotes desk, Quotes and surveys",
  );
});
