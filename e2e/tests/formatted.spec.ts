import AxeBuilder from "@axe-core/playwright";
import { simpleParser } from "mailparser";
import { arrived, expect, pickTemplate, reachable, signIn, test } from "../fixtures.ts";

test("a formatted template is written by keyboard, tried, and a letter of it arrives in both forms", async ({
  page,
  program,
}) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  await page.goto(`${program.url}/templates/new`);
  await page.getByLabel("Name (recipients never see it)").fill("A room, formatted");
  await page.getByRole("textbox", { name: "Subject" }).click();
  await page.keyboard.type("A room for you");
  await page.getByRole("button", { name: "Format it" }).click();
  const body = page.getByRole("textbox", { name: "Letter" });
  await expect(body.locator("[data-field='person.first_name']")).toHaveText("First name");
  await body.click();
  await page.keyboard.press("Control+a");
  await page.keyboard.press("Delete");

  // A heading with a field, picked behind a brace.
  await page.getByLabel("Style").selectOption("Large heading");
  await body.pressSequentially("For ");
  await page.keyboard.type("{");
  await page.getByRole("searchbox", { name: "Search fields" }).fill("company");
  await page.keyboard.press("Enter");
  const chip = body.locator("[data-field='company.name']");
  await expect(chip).toHaveText("Company");
  await chip.click();
  const margin = page.getByRole("complementary", { name: "Margin notes" });
  await margin.getByLabel("If it is missing").selectOption("use this instead");
  await margin.getByRole("textbox", { name: "Instead" }).fill("your shop");
  await page.keyboard.press("Enter");
  await expect(chip).toHaveText("Company or “your shop”");

  // A line with bold words, a typed field and a list.
  await body.getByText("For").click();
  await page.keyboard.press("End");
  await page.keyboard.press("Enter");
  await page.keyboard.type("Dear {");
  await page.getByRole("searchbox", { name: "Search fields" }).fill("last name");
  await page.keyboard.press("Enter");
  await page.keyboard.type(", this is ");
  await page.keyboard.press("Control+b");
  await page.keyboard.type("quiet");
  await page.keyboard.press("Control+b");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "Bullets" }).click();
  await page.keyboard.type("three degrees");
  await page.keyboard.press("Enter");
  await page.keyboard.press("Enter");

  // Wording that stays, and wording that stands only when.
  await page.keyboard.type("Prices are net.");
  await page.getByRole("button", { name: "Fixed" }).click();
  await expect(margin).toContainText("Writers can’t change this wording.");
  await page.keyboard.press("ArrowDown");
  await page.getByRole("button", { name: "Save as draft" }).click();
  await expect(page.getByText("Draft: nobody can use it")).toBeVisible();
  await expect(page.getByRole("button", { name: "Make ready" })).toBeEnabled();
  await page.reload();
  await expect(body.locator(".fixed-block")).toHaveText("Prices are net.");
  await expect(body.locator("strong")).toHaveText("quiet");
  await expect(page.getByText("with unsaved changes")).toBeHidden();

  // As it will be seen.
  await page.getByText("Try on a person").click();
  const seen = page.frameLocator("iframe[title='The letter']");
  await expect(seen.getByRole("heading", { level: 1 })).toContainText("For ");
  await page.getByRole("region", { name: "Tried on" }).getByText("Text", { exact: true }).click();
  await expect(page.getByRole("region", { name: "Tried on" })).toContainText("- three degrees");
  await page.getByText("Wording", { exact: true }).click();
  await page.getByRole("button", { name: "Make ready" }).click();
  await expect(page.getByText("Ready: everybody can use it.")).toBeVisible();
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.filter((v) => v.impact === "serious" || v.impact === "critical").map((v) => v.id)).toEqual([]);

  // A letter of it: fixed wording stays, the rest can be changed.
  await pickTemplate(page, program.url, "q=lower+fenby&kind=lead", "a room, formatted");
  await expect(page.getByRole("region", { name: "Preview" })).toContainText("Prices are net.");
  await page.keyboard.press("Enter");
  await body.getByText("Prices are net.").click();
  await page.keyboard.type("x");
  await expect(page.getByText("This wording is fixed by the template")).toBeVisible();
  await body.getByText("three degrees").click();
  await page.keyboard.press("End");
  await page.keyboard.type(" at night");
  await expect(page.getByText("Saved", { exact: true })).toBeVisible();
  await page.getByRole("button", { name: "Proof" }).click();
  const proof = page.getByRole("dialog");
  await expect(proof.frameLocator("iframe").getByRole("listitem")).toHaveText("three degrees at night");
  await proof.getByText("Text", { exact: true }).click();
  await expect(proof).toContainText("- three degrees at night");
  await proof.getByRole("button", { name: /^Send to/ }).click();
  const filed = page.getByRole("article", { name: "Letter: A room for you" });
  await expect(filed.getByText(/Filed as it was sent/)).toBeVisible();
  await expect(filed.frameLocator("iframe").getByText("Prices are net.")).toBeVisible();
  const source = await filed.getByRole("link", { name: "Save as .eml" }).getAttribute("href");
  const mail = await simpleParser(await (await page.request.get(program.url + source)).body());
  // The signature stands before the fixed wording that ends the letter.
  expect(mail.text).toMatch(/- three degrees at night\n\nGreta Holm\n[\s\S]*\n\nPrices are net\./);
  expect(mail.html).toContain("<strong>quiet</strong>");
});

test("a mistake in a formatted template stands at its chip and is mended with one press", async ({ page, program }) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  const made = await page.request.post(`${program.url}/api/templates`, {
    data: {
      name: "Slips",
      whenToUse: "",
      subject: "s",
      kind: "formatted",
      state: "draft",
      body: '<p>a</p>{{#deal.amount >= 5 GBP}}<p>Dear {{person.frist_name}}</p>{{/deal.amount}}<p><a href="javascript:x">bad</a></p>',
    },
  });
  const { id } = await made.json();
  await page.goto(`${program.url}/templates/${id}`);
  const margin = page.getByRole("complementary", { name: "Margin notes" });
  await expect(margin).toContainText("There is no field person.frist_name");
  await expect(margin).toContainText("is not an address that may be followed");
  await expect(page.getByRole("button", { name: "2 errors" })).toBeDisabled();
  await margin.getByRole("button", { name: "First name (person)" }).click();
  const body = page.getByRole("textbox", { name: "Letter" });
  await expect(body.locator("[data-field='person.first_name']")).toHaveText("First name");
  await body.getByText("bad").click();
  await margin.getByLabel("Address").fill("https://fernhollow.example");
  await page.keyboard.press("Enter");
  await body.getByText("Dear").click();
  await margin.getByLabel("Compare").selectOption("is empty");
  await expect(body).toContainText("Only when Amount is empty");
  await margin.getByRole("button", { name: "Always show it" }).click();
  await expect(body).not.toContainText("Only when");
  // Its words are too few to tell their language.
  await page.getByRole("combobox", { name: /^Language/ }).selectOption("English");
  await page.getByRole("button", { name: "Make ready" }).click();
  await expect(page.getByText("Ready: everybody can use it.")).toBeVisible();
});

test("rich text that is pasted keeps its build and loses what letters cannot hold; a brace can be typed", async ({
  page,
  program,
}) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  await page.goto(`${program.url}/templates/new`);
  await page.getByLabel("Name (recipients never see it)").fill("Pasted");
  await page.getByRole("textbox", { name: "Subject" }).click();
  await page.keyboard.type("s");
  await page.getByRole("button", { name: "Format it" }).click();
  const body = page.getByRole("textbox", { name: "Letter" });
  await body.click();
  await page.keyboard.press("Control+a");
  await page.keyboard.type("A set {");
  await page.keyboard.press("Escape");
  await expect(page.getByRole("dialog")).toBeHidden();
  await expect(body).toHaveText("A set {");
  await page.keyboard.type("1, 2}");
  await expect(body).toHaveText("A set {1, 2}");
  await page.keyboard.press("Enter");
  await body.evaluate((el) => {
    const data = new DataTransfer();
    data.setData(
      "text/html",
      `<h2 style="mso-x:y">Pasted</h2><p class=MsoNormal><b>Bold</b> and <a href="javascript:alert(1)">bad</a><o:p></o:p></p>
       <ul><li>one<ul><li>deep</li></ul></li></ul><table><tr><td>a</td><td>b</td></tr></table>
       <img src="data:image/png;base64,AAAA"><iframe src="https://x.example"></iframe><script>alert(1)</` +
        `script><form><input name=a></form>`,
    );
    el.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
  });
  await expect(body.getByRole("heading", { level: 2 })).toHaveText("Pasted");
  await expect(body.locator("li li")).toHaveText("deep");
  await expect(body.locator("td")).toHaveText(["a", "b"]);
  await expect(body.locator("script, iframe, form, input, img[src^=data]")).toHaveCount(0);
  const margin = page.getByRole("complementary", { name: "Margin notes" });
  await expect(margin).toContainText("is not an address that may be followed");
  await expect(page.getByRole("button", { name: "1 error" })).toBeDisabled();
  await body.getByText("bad").click();
  await margin.getByRole("button", { name: "Remove link" }).click();
  await page.getByRole("toolbar").getByRole("button", { name: "Undo" }).click();
  await expect(body.locator("a")).toHaveText("bad");
  await page.getByRole("button", { name: "Redo" }).click();
  // Its words are too few to tell their language.
  await page.getByRole("combobox", { name: /^Language/ }).selectOption("English");
  await page.getByRole("button", { name: "Make ready" }).click();
  await expect(page.getByText("Ready: everybody can use it.")).toBeVisible();
  const stored = await (await page.request.get(page.url().replace("/templates/", "/api/templates/"))).json();
  expect(stored.body).toContain("<h2>Pasted</h2>");
  expect(stored.body).not.toContain("javascript");
});

test("two people on one formatted template: the second is told and loses nothing", async ({ browser, program }) => {
  const first = await (await browser.newContext()).newPage();
  await signIn(first, program.url, "greta@fernhollow.example");
  const made = await first.request.post(`${program.url}/api/templates`, {
    data: { name: "Shared", whenToUse: "", subject: "s", body: "<p>Ours</p>", kind: "formatted", state: "ready" },
  });
  const { id } = await made.json();
  const second = await (await browser.newContext()).newPage();
  await signIn(second, program.url, "otis@fernhollow.example");
  for (const page of [first, second]) {
    await page.goto(`${program.url}/templates/${id}`);
    await page.getByRole("textbox", { name: "Letter" }).getByText("Ours").click();
    await page.keyboard.press("End");
  }
  await first.keyboard.type(" first");
  await first.getByRole("button", { name: "Save new version" }).click();
  await expect(first.getByText("Version 2.")).toBeVisible();
  await second.keyboard.type(" second");
  await second.getByRole("button", { name: "Save new version" }).click();
  await expect(second.getByRole("alert")).toContainText("Somebody stored version 2");
  await expect(second.getByRole("textbox", { name: "Letter" })).toHaveText("Ours second");
  await second.getByRole("button", { name: "Use theirs" }).click();
  await expect(second.getByRole("textbox", { name: "Letter" })).toHaveText("Ours first");
  await first.context().close();
  await second.context().close();
});

test("links and buttons get their addresses at the desk; what is fixed keeps its looks and where it leads", async ({
  page,
  program,
}) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  await page.request.post(`${program.url}/api/templates`, {
    data: {
      name: "A plan with terms",
      whenToUse: "",
      subject: "Your plan",
      kind: "formatted",
      state: "ready",
      body: '<p>Dear {{person.last_name}}</p>{{fixed}}<p>Prices are net.</p><button href="https://fernhollow.example/sign">Sign</button>{{/fixed}}<p>See the plan</p>',
    },
  });
  await pickTemplate(page, program.url, "q=lower+fenby&kind=lead", "a plan with terms");
  await expect(page.getByRole("region", { name: "Preview" })).toContainText("Prices are net.");
  await page.keyboard.press("Enter");
  const body = page.getByRole("textbox", { name: "Letter" });
  const margin = page.getByRole("complementary", { name: "Margin notes" });
  await body.getByText("See the plan").click();
  await page.keyboard.press("End");
  await page.keyboard.press("Shift+Control+ArrowLeft");
  await page.getByRole("button", { name: "Link", exact: true }).click();
  await expect(margin).toContainText("A link or picture leads nowhere yet");
  await expect(page.getByRole("button", { name: /^Send to/ })).toHaveCount(0);
  await margin.getByLabel("Address").fill("fernhollow.example/plan");
  await page.keyboard.press("Enter");
  await expect(body.getByRole("link", { name: "plan" })).toHaveAttribute("href", "https://fernhollow.example/plan");
  await body.getByText("Sign").click();
  await expect(margin.getByLabel("Address")).toHaveCount(0);
  await body.getByText("Prices are net.").click();
  await page.keyboard.press("Home");
  await page.keyboard.press("Shift+End");
  await page.getByRole("button", { name: "Bold" }).click();
  await expect(page.getByText("This wording is fixed by the template")).toBeVisible();
  await expect(body.locator("strong")).toHaveCount(0);
  await expect(page.getByText("Saved", { exact: true })).toBeVisible();
  await expect(page.getByRole("button", { name: /^Send to/ })).toBeEnabled();

  // Another program cannot lead the button elsewhere.
  const path = `${program.url}/api/letters/${page.url().split("/").at(-1)}`;
  const draft = await (await page.request.get(path)).json();
  const elsewhere = JSON.parse(JSON.stringify(draft.body).replace("fernhollow.example/sign", "elsewhere.example"));
  const put = await page.request.put(path, {
    data: { personId: draft.personId, version: draft.version, subject: draft.subjectDoc, body: elsewhere },
  });
  expect(put.ok()).toBe(true);
  await page.reload();
  await expect(margin).toContainText("The template has a fixed link to https://fernhollow.example/sign");
});

test("what is typed while a template is being formatted is not lost", async ({ page, program }) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  await page.goto(`${program.url}/templates/new`);
  await page.getByRole("textbox", { name: "Subject" }).click();
  await page.keyboard.type("A room");
  let answer = () => {};
  const held = new Promise<void>((done) => {
    answer = done;
  });
  await page.route("**/api/templates/formatted", async (route) => {
    await held;
    await route.continue();
  });
  await page.getByRole("button", { name: "Format it" }).click();
  await page.getByRole("textbox", { name: "Subject" }).click();
  await page.keyboard.press("Control+End");
  await page.keyboard.type(" that stays cold");
  await page.getByLabel("Name (recipients never see it)").fill("Named meanwhile");
  answer();
  await expect(page.getByRole("button", { name: "Bold" })).toBeVisible();
  await expect(page.getByRole("textbox", { name: "Subject" })).toHaveText("A room that stays cold");
  await expect(page.getByLabel("Name (recipients never see it)")).toHaveValue("Named meanwhile");
});

// Merge fields stand in addresses by { and from the list, in a template and in a letter, each in its own way.
test("an address holds merge fields, and a bare one can be followed where the letter goes", async ({
  page,
  program,
}) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  const made = await page.request.post(`${program.url}/api/templates`, {
    data: {
      name: "With a link",
      whenToUse: "",
      subject: "Your room",
      body: '<p>Hello {{person.first_name|}}, <a href="https://fernhollow.example/rooms/">your room</a>. Or see https://fernhollow.example/faq.</p>',
      kind: "formatted",
      state: "draft",
    },
  });
  const { id } = await made.json();
  await page.goto(`${program.url}/templates/${id}`);
  await page.getByRole("textbox", { name: "Letter" }).getByText("your room").click();
  const margin = page.getByRole("complementary", { name: "Margin notes" });
  const address = margin.getByLabel("Address");
  await address.press("End");
  await address.pressSequentially("{first na");
  await expect(margin.getByRole("option")).toContainText(["First name", "First name (sender)"]);
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("ArrowUp");
  await page.keyboard.press("Enter");
  await expect(address).toHaveValue("https://fernhollow.example/rooms/{{person.first_name}}");
  await address.pressSequentially("?by=");
  await margin.getByRole("button", { name: "Merge field" }).click();
  await address.pressSequentially("last name (sender)");
  await page.keyboard.press("Enter");
  await page.keyboard.press("Enter");
  await expect(address).toHaveValue("https://fernhollow.example/rooms/{{person.first_name}}?by={{sender.last_name}}");
  await page.getByRole("button", { name: "Make ready" }).click();
  await expect(page.getByText("Saved. It’s ready to use.")).toBeVisible();

  const [lead] = await reachable(page, program.url, "lead");
  const letter = await (
    await page.request.post(`${program.url}/api/letters`, { data: { personId: lead.id, templateId: id } })
  ).json();
  await page.goto(`${program.url}/letters/${letter.id}`);
  await page.getByRole("textbox", { name: "Letter" }).getByText("your room").click();
  await expect(address).toHaveValue(`https://fernhollow.example/rooms/${lead.firstName}?by=Holm`);
  await address.press("End");
  await address.pressSequentially("&mail={email: ");
  await margin.getByRole("option").first().click();
  await page.keyboard.press("Enter");
  await expect(address).toHaveValue(new RegExp(`by=Holm&mail=${encodeURIComponent(lead.email)}$`));
  await expect(page.getByRole("status").getByText("Saved")).toBeVisible();
  await page.getByRole("button", { name: /^Send to / }).click();
  await expect(page.getByText("Filed as it was sent")).toBeVisible();
  const { html } = await arrived(page, program.url, lead.email);
  // Both are links, and both are measured.
  expect(String(html)).toMatch(/href="[^"]*\/l\/[0-9A-Z]+"[^>]*>your room<\/a>/);
  expect(String(html)).toMatch(/href="[^"]*\/l\/[0-9A-Z]+"[^>]*>https:\/\/fernhollow.example\/faq<\/a>\./);
});

// Codes that are pasted become fields, also with a fallback; a wrong one and a mark of an old text get their note there.
test("codes and old placeholders pasted into a formatted template are found where they stand", async ({
  page,
  program,
}) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  const made = await page.request.post(`${program.url}/api/templates`, {
    data: {
      name: "Pasted codes",
      whenToUse: "",
      subject: "s",
      kind: "formatted",
      state: "draft",
      body: "<p>Hello</p>",
    },
  });
  const { id } = await made.json();
  await page.goto(`${program.url}/templates/${id}`);
  const paste = (where: string, text: string) =>
    page.getByRole("textbox", { name: where }).evaluate((el, words) => {
      const data = new DataTransfer();
      data.setData("text/plain", words);
      el.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
    }, text);
  const body = page.getByRole("textbox", { name: "Letter" });
  await body.getByText("Hello").click();
  await page.keyboard.press("End");
  await paste("Letter", " {{person.first_name|friend}} of {{company.nmae}}, dear [Last name], it's <<TOWN>>");
  await expect(body.locator("[data-field='person.first_name']")).toHaveText("First name or “friend”");
  const margin = page.getByRole("complementary", { name: "Margin notes" });
  await expect(margin).toContainText("There is no field company.nmae");
  await expect(margin).toContainText("[Last name]");
  await expect(margin).toContainText("<<TOWN>>");
  await expect(body).toContainText("it's");
  await margin
    .getByRole("button", { name: "Company (company)" })
    .or(margin.getByRole("button", { name: /^Company/ }))
    .first()
    .click();
  await expect(margin).not.toContainText("There is no field company.nmae");
  const subject = page.getByRole("textbox", { name: "Subject" });
  await subject.click();
  await page.keyboard.press("End");
  await paste("Subject", " for {{person.city}} in {{person.ctiy}}");
  await expect(subject.locator("[data-field='person.city']")).toHaveText("City");
  await expect(margin).toContainText("There is no field person.ctiy");
});
