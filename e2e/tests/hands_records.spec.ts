import { expect, lead, signIn, test } from "../fixtures.ts";
import { numbers, typeAtRandom, watch, words } from "../hands.ts";

// Hands that do not know the ways, on a record and on a template.

const fields = [
  ["First name", "person.first_name"],
  ["Last name", "person.last_name"],
  ["Job title", "person.job_title"],
  ["City", "person.city"],
] as const;

test("values of a record that are changed at random are on the server as they stand on the screen", async ({
  page,
  program,
}) => {
  test.setTimeout(180_000);
  const seen = watch(page);
  await signIn(page, program.url, "imre@fernhollow.example");
  const id = await lead(page, program.url, {
    "person.first_name": "Ada",
    "person.last_name": "Handhale",
    "person.email": "ada@handhale.example",
    "person.city": "Kiel",
    "person.job_title": "Buyer",
  });
  await page.goto(`${program.url}/people/${id}`);
  await page.getByRole("heading", { level: 1 }).waitFor();
  const roll = numbers(7);
  const stored = async (path: string): Promise<string> => {
    const record = await (await page.request.get(`${program.url}/api/people/${id}`)).json();
    const all = JSON.stringify(record);
    const found = [...all.matchAll(/\{[^{}]*"path":"([^"]+)"[^{}]*\}/g)].find((m) => m[1] === path);
    return found ? (JSON.parse(found[0]).value ?? "") : "";
  };
  for (let i = 0; i < 30; i++) {
    const [label, path] = fields[roll(fields.length)] ?? fields[0];
    const was = await stored(path);
    await page.getByRole("button", { name: new RegExp(`^${label}: `) }).click();
    const input = page.getByLabel(label, { exact: true });
    await expect(input).toBeFocused();
    const word = `${words[roll(words.length)]}${i}`.replace(/[<>{}]/g, "");
    switch (roll(4)) {
      case 0: // anew
        await input.press("Control+a");
        await page.keyboard.type(word);
        break;
      case 1: // from its end
        await input.press("End");
        await input.press("Backspace");
        await page.keyboard.type(word);
        break;
      case 2: // from its middle
        await input.press("Home");
        await input.press("ArrowRight");
        await page.keyboard.type(word);
        break;
      default: // a word of it, by double-click
        await input.dblclick();
        await page.keyboard.type(word);
    }
    const typed = (await input.inputValue()).trim();
    const end = roll(4);
    if (end === 0) await page.keyboard.press("Escape");
    else if (end === 1) await page.keyboard.press("Tab");
    else if (end === 2) await page.getByRole("heading", { level: 1 }).click();
    else await page.keyboard.press("Enter");
    const want = end === 0 ? was : typed;
    await expect(async () => expect(await stored(path), `act ${i}: ${label}, ending ${end}`).toBe(want)).toPass();
    await expect(page.getByRole("button", { name: `${label}: ${want}, change` })).toBeVisible();
  }
  await expect(async () => expect(seen.open).toBe(0)).toPass();
  expect(seen.faults).toEqual([]);
});

for (const formatted of [false, true])
  test(`what is typed at random in a ${formatted ? "formatted" : "plain"} template is stored as it stands, and no word is lost by a reload`, async ({
    page,
    program,
  }) => {
    test.setTimeout(180_000);
    const seen = watch(page);
    await signIn(page, program.url, "greta@fernhollow.example");
    await page.goto(`${program.url}/templates/new`);
    await page.getByLabel("Name (recipients never see it)").fill(`Hands ${formatted}`);
    const letter = page.getByRole("textbox", { name: "Letter" });
    if (formatted) {
      await page.getByRole("button", { name: "Format it" }).click();
      await expect(page.getByRole("toolbar", { name: "Formatting" })).toBeVisible();
    }
    const bare = async () => (await letter.innerText()).replace(/\s+/g, "");
    for (let seed = 1; seed <= 3; seed++) {
      await letter.click();
      await typeAtRandom(page, letter, seed + (formatted ? 200 : 300), 50, !formatted);
      const there = await bare();
      // The button is off also while the answer is awaited; nobody who reads the browser's question leaves then.
      const saved = page.waitForResponse((r) => r.request().method() !== "GET" && r.url().includes("/api/templates"));
      await page.getByRole("button", { name: "Save as draft" }).click();
      await saved;
      await expect(page).toHaveURL(/\/templates\/\d+$/);
      await expect(page.getByRole("button", { name: "Save as draft" })).toBeDisabled();
      expect(await bare()).toBe(there);
      await page.reload();
      await expect(async () => expect(await bare()).toBe(there)).toPass();
    }
    await expect(async () => expect(seen.open).toBe(0)).toPass();
    expect(seen.faults).toEqual([]);
  });
