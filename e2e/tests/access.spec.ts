import AxeBuilder from "@axe-core/playwright";
import { expect, test } from "../fixtures.ts";

const screens = [
  "/people",
  "/people/1",
  "/people/import",
  "/templates",
  "/templates/1",
  "/templates/new",
  "/outbox",
  "/outbox?view=sent",
  "/post-office",
];

for (const theme of ["light", "dark"] as const) {
  test(`no screen has a serious accessibility fault in the ${theme} theme`, async ({ desk, program }) => {
    test.setTimeout(120_000);
    await desk.addInitScript((t) => localStorage.setItem("theme", t), theme);
    const start = await desk.request.post(`${program.url}/api/letters`, { data: { personId: 6, templateId: 1 } });
    const letter = (await start.json()) as { id: number };
    for (const path of [...screens, `/letters/${letter.id}`]) {
      await desk.goto(program.url + path);
      await expect(
        desk
          .getByRole("heading", { level: 1 })
          .or(desk.getByRole("textbox", { name: "Letter" }))
          .first(),
      ).toBeVisible();
      await desk.waitForLoadState("networkidle");
      const { violations } = await new AxeBuilder({ page: desk }).analyze();
      const serious = violations.filter((v) => v.impact === "serious" || v.impact === "critical");
      expect(serious.map((v) => `${path}: ${v.id}: ${v.nodes.map((n) => n.html).join(" ")}`)).toEqual([]);
    }
  });
}

test("nothing is wider than a phone", async ({ desk, program }) => {
  await desk.setViewportSize({ width: 390, height: 844 });
  for (const path of screens) {
    await desk.goto(program.url + path);
    await expect(
      desk
        .getByRole("heading", { level: 1 })
        .or(desk.getByRole("textbox", { name: "Letter" }))
        .first(),
    ).toBeVisible();
    const wide = await desk.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
    expect(wide, path).toBeLessThanOrEqual(0);
  }
});
