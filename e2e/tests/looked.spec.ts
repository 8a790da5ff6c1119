import { expect, signIn, test } from "../fixtures.ts";
import { type Program, startProgram } from "../program.ts";

// A plan that others of these tests go through as well: they have a program of their own.
let program: Program;
test.beforeAll(async () => {
  program = await startProgram();
});
test.afterAll(() => program.stop());

test("words of a plan that a colleague changed wait until they were looked at, for everybody at once", async ({
  page,
}) => {
  await signIn(page, program.url, "imre@fernhollow.example");
  await page.goto(`${program.url}/plans`);
  await page.getByRole("link", { name: /After the first letter/ }).click();
  const news = page.getByText(/The letter of step \d was changed since you last looked/);
  await expect(news).toBeVisible();
  // Who has nobody on the plan reads nothing of it.
  const id = page.url().split("/").pop();
  const answer = await page.request.get(`${program.url}/api/plans/${id}`);
  expect((await answer.json()).partNews).toContain("was changed");

  // On the day of that letter it waits on Today, and nothing goes.
  await page.request.post(`${program.url}/api/post-office-world/clock`, { data: { minutes: 25 * 24 * 60 } });
  await page.goto(`${program.url}/today`);
  const waiting = page.getByRole("region", { name: "Letters to proofread" });
  await expect(waiting).toContainText("was changed since you last looked");
  await waiting.getByRole("button", { name: "Take the new words for everybody" }).click();
  await expect(page.getByText(/Letters go with the new words/)).toBeVisible();
  await expect(page.getByRole("button", { name: "Take the new words for everybody" })).toHaveCount(0);
  await page.goto(`${program.url}/plans/${id}`);
  await expect(page.getByRole("list", { name: "Steps" })).toBeVisible();
  await expect(news).toHaveCount(0);
});
