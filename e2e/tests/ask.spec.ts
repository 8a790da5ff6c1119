import type { Page } from "@playwright/test";
import { arrived, expect, test } from "../fixtures.ts";

/** The address of an open deal whose main contact can be written to. */
async function openDeal(page: Page, url: string): Promise<{ id: number; contact: string; email: string }> {
  const { deals } = (await (await page.request.get(`${url}/api/deals`)).json()) as {
    deals: { id: number; contact: string }[];
  };
  for (const { id, contact } of deals) {
    const deal = await (await page.request.get(`${url}/api/deals/${id}`)).json();
    const main = deal.people.find((p: { main: boolean }) => p.main);
    const person = main && (await (await page.request.get(`${url}/api/people/${main.id}`)).json());
    const open = person?.deals.filter((d: { stage: string }) => d.stage !== "won" && d.stage !== "lost");
    if (main?.email && !person.person.optedOutAt && open.length === 1) return { id, contact, email: main.email };
  }
  throw new Error("no deal");
}

test("a one-click question is answered by its link, thanked for, and stands with the person and the deal", async ({
  desk,
  program,
  browser,
}) => {
  const deal = await openDeal(desk, program.url);
  await desk.goto(`${program.url}/deals/${deal.id}`);
  await desk
    .getByRole("button", { name: `Write to ${deal.contact}`, exact: true })
    .first()
    .waitFor();
  await desk.keyboard.press("w");
  await desk.getByRole("combobox", { name: "Search templates" }).fill("quote delivered");
  await expect(desk.getByRole("region", { name: "Preview" })).toContainText("Dear");
  await desk.keyboard.press("Enter");
  const letter = desk.getByRole("textbox", { name: "Letter" });
  await expect(letter).toContainText("Dear");
  await desk.getByRole("button", { name: "Ask", exact: true }).click();
  const dialog = desk.getByRole("dialog", { name: `Ask ${deal.contact}` });
  await dialog.getByRole("button", { name: "Insert into the letter" }).click();
  await expect(dialog.getByRole("alert")).toContainText("has no words");
  await dialog.getByLabel("Question", { exact: true }).fill("Shall we come on Monday?");
  await dialog.getByLabel("Answer 2").fill("Another day");
  await dialog.getByRole("button", { name: "Insert into the letter" }).click();
  await expect(letter).toContainText("Shall we come on Monday?");
  // Asked once more, and taken out again.
  await desk.getByRole("button", { name: "Ask", exact: true }).click();
  await dialog.getByText("A few questions on a page").click();
  await dialog.getByLabel("Link text").fill("Two questions");
  await dialog.getByLabel("Question", { exact: true }).fill("Which door?");
  await dialog.getByRole("button", { name: "Another question" }).click();
  await dialog.getByLabel("Question 2").fill("Which floor?");
  await dialog.getByRole("button", { name: "Insert into the letter" }).click();
  await expect(letter).toContainText("Two questions: http");
  await expect(desk.getByText("Saved", { exact: true })).toBeVisible();
  await desk.getByRole("button", { name: "Remove the question Two questions" }).click();
  await expect(letter).not.toContainText("Two questions");

  await desk.getByRole("button", { name: "When: now" }).click();
  await desk.getByRole("button", { name: "in 3 days" }).click();
  await desk.getByRole("button", { name: "Save the time" }).click();
  await desk.getByRole("button", { name: /^Send to / }).click();
  await expect(desk.getByText("Filed as it was sent")).toBeVisible();
  await expect(desk.getByRole("region", { name: "Next" })).toContainText("No reply yet from");
  await desk.getByRole("link", { name: "Today" }).click();
  await expect(desk.getByRole("region", { name: "Later" })).toContainText(`No reply yet from ${deal.contact}`);

  const { text = "" } = await arrived(desk, program.url, deal.email);
  const link = /Another day: (\S+)/.exec(text)?.[1] ?? "";
  expect(link).toMatch(/\/a\/[0-9A-Z]{26}\/2$/);
  // The recipient's own browser, where nobody is signed in.
  const other = await browser.newContext();
  const reader = await other.newPage();
  await reader.goto(link);
  await expect(reader.getByRole("heading", { name: "Thank you" })).toBeVisible();
  await expect(reader.getByRole("main")).toContainText("Another day");
  await other.close();

  await desk.reload();
  await expect(desk.getByRole("main")).not.toContainText(`No reply yet from ${deal.contact}`);
  await desk.goto(`${program.url}/deals/${deal.id}`);
  await expect(desk.getByRole("region", { name: "History" })).toContainText("Shall we come on Monday? Another day");
});

test("a list of questions is answered on its page, with what is wrong said", async ({ desk, program, browser }) => {
  const deal = await openDeal(desk, program.url);
  const { mainContactId } = await (await desk.request.get(`${program.url}/api/deals/${deal.id}`)).json();
  await desk.goto(`${program.url}/people/${mainContactId}`);
  await desk.getByRole("heading", { level: 1, name: deal.contact }).waitFor();
  await desk.keyboard.press("w");
  await desk.getByRole("combobox", { name: "Search templates" }).fill("an empty letter");
  await desk.keyboard.press("Enter");
  await desk.getByRole("textbox", { name: "Subject" }).fill("Three things");
  await desk.getByRole("textbox", { name: "Letter" }).press("Control+Home");
  await desk.keyboard.type("Please tell me a little more about the room.");
  await desk.keyboard.press("Enter");
  await desk.getByRole("button", { name: "Ask", exact: true }).click();
  const dialog = desk.getByRole("dialog", { name: /^Ask / });
  await dialog.getByText("A few questions on a page").click();
  await dialog.getByLabel("Question", { exact: true }).fill("Is there a lift?");
  await dialog.getByRole("button", { name: "Insert into the letter" }).click();
  await expect(dialog.getByRole("alert")).toContainText("Enter the text of the link");
  await dialog.getByLabel("Link text").fill("Two short questions");
  await dialog.getByRole("button", { name: "Another question" }).click();
  await dialog.getByLabel("Question 2").fill("What volume, in m³?");
  await dialog.getByLabel("Also save the answer to").last().selectOption("Volume of the deal");
  await dialog.getByRole("button", { name: "Insert into the letter" }).click();
  const letter = desk.getByRole("textbox", { name: "Letter" });
  await expect(letter).toContainText("Two short questions: http");
  const link = /Two short questions: (\S+?\/a\/[0-9A-Z]{26})/.exec((await letter.textContent()) ?? "")?.[1] ?? "";
  await desk.getByRole("button", { name: /^Send to / }).click();
  await expect(desk.getByText("Filed as it was sent")).toBeVisible();

  const other = await browser.newContext({ viewport: { width: 390, height: 800 } });
  const reader = await other.newPage();
  await reader.goto(link);
  await reader.getByRole("button", { name: "Send my answer" }).click();
  await expect(reader.getByRole("alert")).toContainText("answer at least one");
  await reader.getByRole("radio", { name: "Yes" }).check();
  await reader.getByRole("textbox", { name: "What volume, in m³?" }).fill("33");
  await reader.getByRole("button", { name: "Send my answer" }).click();
  await expect(reader.getByRole("heading", { name: "Thank you" })).toBeVisible();
  await other.close();
  await desk.goto(`${program.url}/deals/${deal.id}`);
  await expect(desk.getByRole("region", { name: "History" })).toContainText(
    "Is there a lift? Yes · What volume, in m³? 33",
  );
  await expect(desk.getByRole("main").getByText("33", { exact: true })).toBeVisible();
});

test("a letter to colleagues is filed on the deal and not on the person", async ({ desk, program }) => {
  const deal = await openDeal(desk, program.url);
  await desk.goto(`${program.url}/deals/${deal.id}`);
  await desk.getByRole("button", { name: "Write to colleagues" }).click();
  const who = desk.getByRole("dialog", { name: "Write to colleagues" });
  await who.getByRole("checkbox", { name: /Greta Holm/ }).check();
  await who.getByRole("button", { name: "Go on" }).click();
  await desk.getByRole("combobox", { name: "Search templates" }).fill("an empty letter");
  await desk.keyboard.press("Enter");
  await desk.getByRole("textbox", { name: "Subject" }).fill("How this one stands");
  await desk.getByRole("textbox", { name: "Letter" }).press("Control+Home");
  await desk.keyboard.type("They want the room by spring.");
  await desk.getByRole("button", { name: "Copies" }).click();
  const copies = desk.getByRole("dialog", { name: "Copies" });
  await copies.getByRole("combobox", { name: "Cc", exact: true }).fill(deal.email);
  await desk.keyboard.press("Enter");
  await copies.getByRole("button", { name: "Save" }).click();
  await expect(desk.getByRole("complementary")).toContainText("does not work here");
  await desk.getByRole("button", { name: "Copies: 1" }).click();
  await copies.getByRole("button", { name: `Remove ${deal.email} from Cc` }).click();
  await copies.getByRole("button", { name: "Save" }).click();
  await desk.getByRole("button", { name: "Change colleagues" }).click();
  const again = desk.getByRole("dialog", { name: "To which colleagues" });
  await again.getByRole("checkbox", { name: /Nora Lindgren/ }).check();
  await again.getByRole("button", { name: "Go on" }).click();
  await desk.getByRole("button", { name: "Send to Greta Holm, To 1 more" }).click();
  await expect(desk).toHaveURL(/\/deals\/\d+\?letter=/);
  await expect(desk.getByText("Filed as it was sent")).toBeVisible();
  await expect(desk.getByRole("region", { name: "History" })).toContainText("How this one stands");
  await desk.getByRole("link", { name: deal.contact, exact: true }).click();
  await expect(desk.getByRole("heading", { level: 1, name: deal.contact })).toBeVisible();
  await expect(desk.getByRole("region", { name: "History" })).toBeVisible();
  await expect(desk.getByRole("region", { name: "History" })).not.toContainText("How this one stands");
});
