import AxeBuilder from "@axe-core/playwright";
import { expect, test } from "../fixtures.ts";

const screens = [
  "/people",
  "/people/1",
  "/companies",
  "/deals?view=stages",
  "/people/import",
  "/templates",
  "/templates/1",
  "/templates/new",
  "/shelf",
  "/passages",
  "/stationery",
  "/documents",
  "/library",
  "/fields",
  "/me",
  "/opt-outs",
  "/today",
  "/deals",
  "/deals/1",
  "/outbox",
  "/outbox?view=sent",
  "/post-office",
  "/companies/1",
  "/rounds",
  "/rounds/1",
  "/rounds/1?step=template",
  "/rounds/1?step=send",
  "/plans",
  "/plans?view=shelf",
  "/plans?view=people",
  "/plans?view=orders",
  "/plans/1",
  "/plans/1/start",
  "/start?person=30&plan=1",
  "/runs/1",
  "/orders/1",
  "/settings",
];

/** Of what axe looks at, the rules that the colours decide; everything else is the same in both themes. */
const ofColours = ["color-contrast", "link-in-text-block"];

async function faults(axe: AxeBuilder, theme: "light" | "dark") {
  const { violations } = await (theme === "dark" ? axe.withRules(ofColours) : axe).analyze();
  const serious = violations.filter((v) => v.impact === "serious" || v.impact === "critical");
  return serious.map((v) => `${v.id}: ${v.nodes.map((n) => n.html).join(" ")}`);
}

for (const path of [...screens, "a letter"]) {
  test(`${path} has no serious accessibility fault in either theme`, async ({ desk, program }) => {
    test.setTimeout(180_000); // axe takes its time on a long list
    let address = path;
    if (path === "a letter") {
      const start = await desk.request.post(`${program.url}/api/letters`, { data: { personId: 6, templateId: 1 } });
      address = `/letters/${((await start.json()) as { id: number }).id}`;
    }
    const frames = desk.locator("iframe");
    const letters: string[] = [];
    for (const theme of ["light", "dark"] as const) {
      if (theme === "light") await desk.goto(program.url + address);
      else {
        await desk.evaluate(() => localStorage.setItem("theme", "dark"));
        await desk.reload();
      }
      await expect(
        desk
          .getByRole("heading", { level: 1 })
          .or(desk.getByRole("textbox", { name: "Letter" }))
          .first(),
      ).toBeVisible();
      await desk.waitForLoadState("networkidle");
      for (const frame of await frames.all()) await expect(frame).not.toHaveAttribute("aria-hidden", "true");
      const shown = await frames.evaluateAll((all) =>
        all.map((f) => (f as HTMLIFrameElement).contentDocument?.documentElement.outerHTML ?? ""),
      );
      letters.push(...shown);
      expect(await faults(new AxeBuilder({ page: desk }).exclude("iframe"), theme), theme).toEqual([]);
    }
    // No script runs in the frame of a letter, so axe looks at its page on its own.
    for (const html of new Set(letters)) {
      await desk.setContent(html);
      expect(await faults(new AxeBuilder({ page: desk }), "light")).toEqual([]);
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
