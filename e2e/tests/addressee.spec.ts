import { expect, reachable, test } from "../fixtures.ts";

test("a letter is given to somebody else: untouched words follow the new record, the rest stays", async ({
  desk,
  program,
}) => {
  const [one, two] = await reachable(desk, program.url, "lead");
  await desk.goto(`${program.url}/people/${one.id}`);
  await desk.getByRole("heading", { level: 1 }).waitFor();
  await desk.keyboard.press("w");
  await desk.getByRole("combobox", { name: "Search templates" }).fill("first letter to a florist");
  await expect(desk.getByRole("region", { name: "Preview" })).toContainText(`Dear ${one.firstName}`);
  await desk.keyboard.press("Enter");
  const body = desk.getByRole("textbox", { name: "Letter" });
  await expect(body).toContainText(`Dear ${one.firstName}`);
  await body.press("Control+End");
  await desk.keyboard.type(`\nP.S. ${one.lastName} wrote this.`);
  await expect(desk.getByText("Saved", { exact: true })).toBeVisible();

  await desk.getByRole("button", { name: "Change recipient" }).click();
  const dialog = desk.getByRole("dialog", { name: "Recipient" });
  const to = dialog.getByRole("combobox", { name: "To" });
  await to.fill(`${two.firstName} ${two.lastName} <${two.email}>, nobody@nowhere.example`);
  await to.press("Enter");
  await expect(dialog.getByText("nobody@nowhere.example is nobody’s address")).toBeVisible();
  await dialog.getByRole("button", { name: "Remove nobody@nowhere.example from To" }).click();
  // Two people in To: asked whose values count.
  await dialog.getByRole("radio", { name: new RegExp(`${two.firstName} ${two.lastName}`) }).check();
  await dialog.getByRole("button", { name: "Change recipient" }).click();
  await expect(body).toContainText(`Dear ${two.firstName}`);
  await expect(body).toContainText(`P.S. ${one.lastName} wrote this.`);
  const margin = desk.getByRole("complementary");
  await expect(margin).toContainText("This was written for somebody else");
  await expect(margin).toContainText(one.lastName);
  await margin.getByRole("button", { name: "Yes, it fits" }).click();
  await expect(margin).not.toContainText("still as you wrote it");
  await expect(desk.getByRole("region", { name: "Facts" })).toContainText(`${two.firstName} ${two.lastName}`);
  await expect(
    desk.getByRole("region", { name: "Dispatch" }).getByText(`<${two.email}> +1`, { exact: false }),
  ).toBeVisible();
});

test("a template that needs a deal is not given to somebody without one, and says why", async ({ desk, program }) => {
  const contacts = (
    await (await desk.request.get(`${program.url}/api/people?kind=contact&sort=last&down=true&limit=60`)).json()
  ).people as { id: number; lastName: string }[];
  for (const { id } of contacts) {
    const choices = await (await desk.request.get(`${program.url}/api/people/${id}/templates`)).json();
    if (choices.some((c: { name: string; fits: boolean }) => c.name === "Quote delivered" && c.fits)) {
      await desk.goto(`${program.url}/people/${id}`);
      break;
    }
  }
  await desk.getByRole("heading", { level: 1 }).waitFor();
  await desk.keyboard.press("w");
  await desk.getByRole("combobox", { name: "Search templates" }).fill("quote delivered");
  await desk.keyboard.press("Enter");
  await expect(desk.getByRole("textbox", { name: "Letter" })).toContainText("Dear");
  await desk.getByRole("button", { name: "Change recipient" }).click();
  const dialog = desk.getByRole("dialog", { name: "Recipient" });
  await dialog.getByRole("button", { name: /^Remove .* from To$/ }).click();
  const to = dialog.getByRole("combobox", { name: "To" });
  await to.fill("new.here@nowhere.example");
  await to.press("Enter");
  await dialog.getByRole("button", { name: "Add as a lead" }).click();
  await dialog.getByRole("button", { name: "Change recipient" }).click();
  await expect(dialog.getByRole("alert")).toContainText("needs a deal, and there isn’t one with");
});

test("a value that is corrected in the letter can be kept on the record with one key", async ({ desk, program }) => {
  const [one] = await reachable(desk, program.url, "lead");
  await desk.goto(`${program.url}/people/${one.id}`);
  await desk.getByRole("heading", { level: 1 }).waitFor();
  await desk.keyboard.press("w");
  await desk.getByRole("combobox", { name: "Search templates" }).fill("first letter to a florist");
  await expect(desk.getByRole("region", { name: "Preview" })).toContainText("Dear");
  await desk.keyboard.press("Enter");
  const body = desk.getByRole("textbox", { name: "Letter" });
  await expect(body).toBeFocused(); // the cursor is there by itself
  await body.press("Control+Home");
  for (let i = 0; i < "Dear ".length + 2; i++) await desk.keyboard.press("ArrowRight");
  await desk.keyboard.type("x");
  const margin = desk.getByRole("complementary");
  const name = `${one.firstName.slice(0, 2)}x${one.firstName.slice(2)}`;
  await expect(margin).toContainText(`you wrote ${name}, the record says ${one.firstName}`);
  await margin.getByRole("button", { name: /^Save “.*” on the record/ }).press("Enter");
  await expect(margin).not.toContainText("you wrote");
  await expect(body).toContainText(`Dear ${name},`);
  const { person } = await (await desk.request.get(`${program.url}/api/people/${one.id}`)).json();
  expect(person.firstName).toBe(name);
  await desk.getByRole("button", { name: "Discard draft" }).click();
});

test("keys that follow the one for the beginning at once are counted", async ({ desk, program }) => {
  const [one] = await reachable(desk, program.url, "lead");
  await desk.goto(`${program.url}/people/${one.id}`);
  await desk.getByRole("heading", { level: 1 }).waitFor();
  await desk.keyboard.press("w");
  await desk.getByRole("combobox", { name: "Search templates" }).fill("first letter to a florist");
  await expect(desk.getByRole("region", { name: "Preview" })).toContainText("Dear");
  await desk.keyboard.press("Enter");
  const body = desk.getByRole("textbox", { name: "Letter" });
  await expect(body).toBeFocused();
  for (let i = 0; i < 5; i++) {
    await body.press("Control+End");
    // The caret is moved on before the next frame, as fast keys do on a busy machine.
    const places = await body.evaluate(async (el) => {
      el.dispatchEvent(new KeyboardEvent("keydown", { key: "Home", ctrlKey: true, bubbles: true, cancelable: true }));
      const at = window.getSelection();
      at?.modify("move", "forward", "character");
      at?.modify("move", "forward", "character");
      const then = at?.anchorOffset;
      for (let frame = 0; frame < 3; frame++) await new Promise((f) => requestAnimationFrame(f));
      return [then, window.getSelection()?.anchorOffset];
    });
    expect(places).toEqual([2, 2]);
  }
  await desk.getByRole("button", { name: "Discard draft" }).click();
});
