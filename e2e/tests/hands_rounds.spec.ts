import { expect, lead, template, test } from "../fixtures.ts";
import { numbers, watch, words } from "../hands.ts";

// Hands that do not know the ways, on the letters of a round.

test("a round that is proofread at random: every mark is on whom it was set, every word in the letter it was typed in", async ({
  desk,
  program,
}) => {
  test.setTimeout(150_000);
  const { url } = program;
  const seen = watch(desk);
  const names = ["Ada", "Bo", "Cy", "Di", "Ed", "Flo"];
  const ids: Record<string, number> = {};
  for (const name of names)
    ids[name] = await lead(desk, url, {
      "person.first_name": name,
      "person.last_name": "Randale",
      "person.email": `${name.toLowerCase()}@randale.example`,
      "person.basis": "Asked us",
    });
  const chosen = await template(
    desk,
    url,
    "Round by hand",
    "A room for {{person.first_name}}",
    "Dear {{person.first_name}},\n\nYour room is ready for you and waits.",
  );
  const made = await desk.request.post(`${url}/api/rounds`, {
    data: { name: "By hand", people: Object.values(ids), templateId: chosen },
  });
  const round = (await made.json()).id;
  await desk.goto(`${url}/rounds/${round}`);
  await desk.getByRole("button", { name: /3 Check/ }).click();

  const heading = desk.getByRole("heading", { level: 2, name: /^A room for / });
  const list = desk.getByRole("region", { name: "People of this round" });
  const stored = async (name: string) =>
    (await desk.request.get(`${url}/api/rounds/${round}/people/${ids[name]}?before=0`)).json();
  const typed: Record<string, string[]> = {};
  const good: Record<string, boolean> = {};
  const aside: Record<string, boolean> = {};
  const roll = numbers(11);
  let n = 0;
  for (let i = 0; i < 60; i++) {
    await expect(heading).toBeVisible();
    const name = /A room for (\w+)/.exec((await heading.textContent()) ?? "")?.[1] ?? "";
    const told = `act ${i} on ${name}`;
    const state = async (): Promise<{ proofread: boolean; state: string }> => (await stored(name)).person;
    switch (roll(8)) {
      case 0:
      case 1: // it is good
        await desk.keyboard.press("Enter");
        good[name] = good[name] || !aside[name];
        await expect(async () => expect((await state()).proofread, told).toBe(good[name] ?? false)).toPass({
          timeout: 15_000,
        });
        break;
      case 2: // held back, or no longer
        await desk.keyboard.press("h");
        aside[name] = !aside[name];
        await expect(async () => expect((await state()).state === "set aside", told).toBe(aside[name])).toPass({
          timeout: 15_000,
        });
        break;
      case 3:
      case 4: {
        if (aside[name]) break;
        // words for this one alone, wherever the caret is
        await desk.keyboard.press("e");
        const letter = desk.getByRole("textbox", { name: "Letter" });
        await letter.click();
        for (let k = 0; k < 4; k++) {
          await desk.keyboard.press(["Control+Home", "Control+End", "Home", "End", "ArrowDown"][roll(5)] ?? "End");
          const word = `${(words[roll(words.length)] ?? "").replace(/[{}]/g, "")}${name}${n++}`;
          await desk.keyboard.type(` ${word} `);
          typed[name] = [...(typed[name] ?? []), word];
        }
        good[name] = false;
        if (roll(3) === 0) {
          await desk.reload(); // at once, with words that the server may not have yet
          await expect(letter).toContainText(typed[name]?.at(-1) ?? "");
        }
        await desk.keyboard.press("Control+Enter");
        await expect(desk).toHaveURL(/\/rounds\//);
        break;
      }
      case 5: // there and back, faster than letters come
        for (let k = roll(4); k >= 0; k--) await desk.keyboard.press(roll(2) === 0 ? "j" : "k");
        break;
      case 6: {
        const to = names[roll(names.length)] ?? "Ada";
        await list.getByRole("button", { name: new RegExp(`\\b${to} Randale`) }).click();
        await expect(heading).toHaveText(`A room for ${to}`);
        break;
      }
      default:
        await desk.reload();
    }
    // Who is shown is who is marked in the list.
    await expect(async () => {
      const shown = /A room for (\w+)/.exec((await heading.textContent()) ?? "")?.[1] ?? "-";
      await expect(list.locator("[aria-current=true]")).toContainText(shown, { timeout: 500 });
    }, told).toPass({ timeout: 15_000 });
  }
  for (const name of names) {
    const letter = await stored(name);
    const text: string = letter.mail.text;
    for (const word of typed[name] ?? []) expect(text, `of ${name}`).toContain(word);
    for (const other of names.filter((o) => o !== name))
      for (const word of typed[other] ?? []) expect(text, `of ${name}`).not.toContain(word);
    expect([name, letter.person.proofread, letter.person.state === "set aside"]).toEqual([
      name,
      good[name] ?? false,
      aside[name] ?? false,
    ]);
  }
  await expect(async () => expect(seen.open).toBe(0)).toPass({ timeout: 15_000 });
  expect(seen.faults).toEqual([]);
});

test("a letter that was put back in is marked good by an Enter that comes before the answer", async ({
  desk,
  program,
}) => {
  const { url } = program;
  const ids: number[] = [];
  for (const name of ["Ada", "Bo"])
    ids.push(
      await lead(desk, url, {
        "person.first_name": name,
        "person.last_name": "Randale",
        "person.email": `${name.toLowerCase()}@randale.example`,
        "person.basis": "Asked us",
      }),
    );
  const chosen = await template(
    desk,
    url,
    "Quick hands",
    "For {{person.first_name}}",
    "Dear {{person.first_name}},\n\nHello.",
  );
  const made = await desk.request.post(`${url}/api/rounds`, {
    data: { name: "Quick", people: ids, templateId: chosen },
  });
  const round = (await made.json()).id;
  await desk.goto(`${url}/rounds/${round}`);
  await desk.getByRole("button", { name: /3 Check/ }).click();
  const list = desk.getByRole("region", { name: "People of this round" });
  await expect(desk.getByRole("heading", { level: 2, name: "For Ada" })).toBeVisible();
  await desk.keyboard.press("h");
  await expect(list.getByRole("button", { name: /set aside.*Ada Randale/ })).toBeVisible();
  await list.getByRole("button", { name: /Ada Randale/ }).click();
  await expect(desk.getByRole("button", { name: "Put back in" })).toBeVisible();
  let answer = () => {};
  const held = new Promise<void>((go) => {
    answer = go;
  });
  await desk.route("**/api/rounds/*/do", async (route) => {
    const from = await route.fetch();
    await held;
    await route.fulfill({ response: from });
  });
  await desk.getByRole("heading", { level: 2, name: "For Ada" }).click();
  await desk.keyboard.press("h");
  await desk.keyboard.press("Enter");
  answer();
  await expect(list.getByRole("button", { name: /marked good.*Ada Randale/ })).toBeVisible();
  await expect(desk.getByRole("heading", { level: 2, name: "For Bo" })).toBeVisible();
  await expect(list.getByRole("button", { name: /to be proofread.*Bo Randale/ })).toBeVisible();
});
