import { expect, lead, password, signIn, template, test } from "../fixtures.ts";

// Words that were typed and are not stored yet are asked for before they are lost, wherever they were typed.

test("a dialog that was written in is not closed by Esc or by a press beside it without asking", async ({
  page,
  program,
}) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  await page.goto(`${program.url}/templates`);
  await page.getByRole("link", { name: "Passages" }).click();
  await page.getByRole("button", { name: "New passage" }).click();
  const form = page.getByRole("dialog", { name: /passage/i });
  await page.keyboard.press("Escape"); // nothing was typed: it closes
  await expect(form).toBeHidden();
  await page.getByRole("button", { name: "New passage" }).click();
  await form.getByLabel("Name").fill("Delivery");
  await page.keyboard.press("Escape");
  await expect(form.getByRole("alert")).toContainText("What you typed here isn’t saved.");
  await form.getByRole("button", { name: "Keep it open" }).click();
  await expect(form.getByLabel("Name")).toHaveValue("Delivery");
  await page.mouse.click(5, 400);
  await expect(form.getByRole("alert")).toBeVisible();
  // Going back asks as well.
  await form.getByRole("button", { name: "Keep it open" }).click();
  await page.goBack();
  const leave = page.getByRole("dialog", { name: "Leave without saving?" });
  await leave.getByRole("button", { name: "Stay here" }).click();
  await expect(form.getByLabel("Name")).toHaveValue("Delivery");
  await form.getByRole("button", { name: "Close", exact: true }).click();
  await form.getByRole("button", { name: "Close without saving" }).click();
  await expect(form).toBeHidden();
});

test("stationery, a note, a profile and settings ask before they are left unsaved", async ({ page, program }) => {
  const { url } = program;
  await signIn(page, url, "otis@fernhollow.example");
  const leave = page.getByRole("dialog", { name: "Leave without saving?" });
  const asks = async (what: string) => {
    await page.getByRole("navigation", { name: "Sections" }).getByRole("link", { name: "Deals" }).click();
    await expect(leave).toContainText(`Your changes to ${what} aren’t saved.`);
    await leave.getByRole("button", { name: "Stay here" }).click();
    await expect(leave).toBeHidden();
  };
  const goes = async () => {
    await page.getByRole("navigation", { name: "Sections" }).getByRole("link", { name: "Deals" }).click();
    await expect(page.getByRole("heading", { level: 1, name: "Deals" })).toBeVisible();
  };

  await page.goto(`${url}/stationery`);
  await page.getByRole("textbox", { name: "Header" }).click();
  await page.keyboard.press("Control+End");
  await page.keyboard.type(" Since 1987");
  await asks("this stationery");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByText("Saved. Templates that use it are updated.")).toBeVisible();
  await expect(page.getByRole("textbox", { name: "Header" })).toContainText("Since 1987");
  await goes();

  const id = await lead(page, url, { "person.last_name": "Unsaved", "person.email": "u@unsaved.example" });
  await page.goto(`${url}/people/${id}`);
  await page.getByRole("textbox", { name: "What was said" }).fill("Rings back on Monday");
  await asks("this note");
  await page.getByRole("button", { name: "Write down" }).click();
  await expect(page.getByText("Written down.")).toBeVisible();
  await goes();

  await page.goto(`${url}/me`);
  await page.getByLabel("Job title").fill("Keeper of keys");
  await asks("your profile");
  await page.getByRole("button", { name: "Save my profile" }).click();
  await expect(page.getByText("Stored.")).toBeVisible();
  await goes();

  await page.goto(`${url}/settings`);
  await page.getByRole("spinbutton", { name: /^Skip people/ }).fill("12");
  await asks("the settings");
  await page.getByRole("button", { name: "Save the settings" }).click();
  await expect(page.getByText("Stored.").last()).toBeVisible();
  await goes();
});

test("a colleague's change of a stationery is followed, but never over words that are being written", async ({
  page,
  program,
  context,
}) => {
  const { url } = program;
  await signIn(page, url, "greta@fernhollow.example");
  await page.goto(`${url}/stationery`);
  const footer = page.getByRole("textbox", { name: "Footer" });
  await footer.click();
  await page.keyboard.press("Control+End");
  await page.keyboard.type(" Mine.");
  const other = await context.newPage();
  await other.goto(`${url}/stationery`);
  await other.getByRole("textbox", { name: "Footer" }).click();
  await other.keyboard.press("Control+End");
  await other.keyboard.type(" Theirs.");
  await other.getByRole("button", { name: "Save", exact: true }).click();
  await expect(other.getByText("Saved. Templates that use it are updated.")).toBeVisible();
  await page.bringToFront();
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByRole("alert").first()).toContainText("Nothing was overwritten.");
  await expect(footer).toContainText("Mine.");
});

test("what was deleted elsewhere while it was written on is put back, and no word is lost", async ({
  page,
  program,
}) => {
  const { url } = program;
  await signIn(page, url, "greta@fernhollow.example");
  const back = page.getByRole("button", { name: "Put it back" });
  const gone = async (what: string) => {
    await expect(
      page.getByText(
        `${what} was deleted in another window, or is no longer shared with you. Your words are still here`,
      ),
    ).toBeVisible();
    await back.click();
    await expect(page.getByText("It’s back. Now save your changes.").last()).toBeVisible();
  };
  const json = async (path: string) => (await page.request.get(url + path)).json();
  const remove = async (path: string, version: number) =>
    expect((await page.request.delete(`${url}${path}?version=${version}`)).ok()).toBe(true);

  // A template.
  const id = await template(page, url, "Gone elsewhere", "S", "Dear {{person.first_name}},\n\nWords.");
  await page.goto(`${url}/templates/${id}`);
  const letter = page.getByRole("textbox", { name: "Letter" });
  await letter.press("Control+End");
  await page.keyboard.type(" An hour of work.");
  await remove(`/api/templates/${id}`, (await json(`/api/templates/${id}`)).version);
  await page.getByRole("button", { name: "Save new version" }).click();
  await gone("This template");
  await page.getByRole("button", { name: "Save new version" }).click();
  await expect(page.getByText("Saved. It’s ready to use.")).toBeVisible();
  await expect(letter).toContainText("An hour of work.");

  // A stationery, whose list is asked for anew meanwhile.
  const house = (await json("/api/stationery")).find((s: { default: boolean }) => s.default);
  await page.goto(`${url}/stationery/${house.id}`);
  const footer = page.getByRole("textbox", { name: "Footer" });
  await footer.press("Control+End");
  await page.keyboard.type(" Open on Sundays.");
  await remove(`/api/stationery/${house.id}`, house.version);
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await gone("This stationery");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByText("Saved. Templates that use it are updated.")).toBeVisible();
  await expect(footer).toContainText("Open on Sundays.");

  // A plan.
  const plans = await json("/api/plans");
  const plan = (plans.plans ?? plans)[0];
  await page.goto(`${url}/plans/${plan.id}`);
  await page.getByRole("textbox", { name: "Name", exact: false }).first().fill("A name that was thought of");
  await remove(`/api/plans/${plan.id}`, (await json(`/api/plans/${plan.id}`)).version);
  await page.getByRole("button", { name: /^Save/ }).last().click();
  await gone("This plan");
  await page.getByRole("button", { name: /^Save/ }).last().click();
  await expect(page.getByText("A name that was thought of").first()).toBeAttached();
  await expect(async () =>
    expect((await json(`/api/plans/${plan.id}`)).name).toBe("A name that was thought of"),
  ).toPass();
});

test("signing in again is possible above a dialog, which keeps its words", async ({ page, program }) => {
  const { url } = program;
  await signIn(page, url, "greta@fernhollow.example");
  await page.goto(`${url}/passages`);
  await page.getByRole("button", { name: "New passage" }).click();
  const form = page.getByRole("dialog", { name: "New passage" });
  await form.getByLabel("Name").fill("Typed while signed out");
  await page.request.delete(`${url}/api/session`);
  await form.getByRole("textbox").last().click();
  await page.keyboard.type("Words of a passage.");
  await form.getByRole("button", { name: "Save the passage" }).click();
  const again = page.getByRole("dialog", { name: "Sign in again" });
  await again.getByLabel("Email").fill("greta@fernhollow.example");
  await again.getByLabel("Password").fill(password);
  await page.keyboard.press("Escape"); // it is not closed by that
  await again.getByLabel("Password").press("Enter");
  await expect(again).toBeHidden();
  await expect(form.getByLabel("Name")).toHaveValue("Typed while signed out");
  await expect(form).toContainText("Words of a passage.");
  await form.getByRole("button", { name: "Save the passage" }).click();
  await expect(form).toBeHidden();
});
