import { readFileSync } from "node:fs";
import { inflateRawSync } from "node:zlib";
import { expect, signIn, switchTo, test } from "../fixtures.ts";
import { startProgram } from "../program.ts";

// A picture of 2 × 2 pixels.
const png = Buffer.from(
  "iVBORw0KGgoAAAANSUhEUgAAAAIAAAACCAIAAAD91JpzAAAAEElEQVR4nGOQ97UCIgYIBQARygKZ0Yv6BAAAAABJRU5ErkJggg==",
  "base64",
);

test("stationery, a picture and an approved document go out with a letter, and writers cannot change them", async ({
  page,
  program,
}) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  await page.goto(`${program.url}/stationery`);
  await page.getByRole("textbox", { name: "Header" }).getByText("Fernhollow Cold Rooms").click();
  await page.keyboard.press("End");
  await page.keyboard.type(", since 1987");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByText("Templates that use it are updated.")).toBeVisible();
  await expect(page.frameLocator("iframe[title='Preview of the stationery']").getByText("since 1987")).toBeVisible();

  await page.goto(`${program.url}/templates/new`);
  await page.getByRole("textbox", { name: "Name" }).fill("With everything");
  await page.getByRole("textbox", { name: "Subject" }).fill("All at once");
  await page.getByRole("button", { name: "Format it" }).click();
  await page.getByRole("textbox", { name: "Letter" }).focus();
  await page.getByRole("button", { name: "Picture" }).click();
  await page.getByLabel("A file: PNG").setInputFiles({ name: "room.png", mimeType: "image/png", buffer: png });
  await page.getByLabel("Alternative text").fill("A cold room");
  await page.getByRole("button", { name: "Insert" }).click();
  await expect(page.getByRole("textbox", { name: "Letter" }).getByRole("img", { name: "A cold room" })).toBeVisible();
  await page.getByText("Settings", { exact: true }).click();
  await page.getByLabel("Terms of delivery").check();
  await page.getByLabel("links", { exact: true }).uncheck();
  await page.getByRole("button", { name: "Make ready" }).click();
  await expect(page.getByText("Version 1.")).toBeVisible();
  const id = Number(page.url().split("/").at(-1));

  await switchTo(page, program.url, "imre@fernhollow.example");
  const letter = await (
    await page.request.post(`${program.url}/api/letters`, { data: { personId: 6, templateId: id } })
  ).json();
  await page.goto(`${program.url}/letters/${letter.id}`);
  await page.getByRole("button", { name: "Proof" }).click();
  const proof = page.getByRole("dialog");
  const mail = proof.frameLocator("iframe");
  await expect(mail.getByText("since 1987")).toBeVisible();
  await expect(mail.getByRole("img", { name: "A cold room" })).toHaveJSProperty("naturalWidth", 2);
  await expect(proof.getByRole("list", { name: "Attachments" })).toContainText("terms.pdf");
  await page.keyboard.press("Escape");

  // A link is more than this template allows, however it gets into the letter.
  const now = await (await page.request.get(`${program.url}/api/letters/${letter.id}`)).json();
  now.body.content.push({
    type: "paragraph",
    content: [{ type: "text", text: "here", marks: [{ type: "link", attrs: { href: "https://x.example" } }] }],
  });
  await page.request.put(`${program.url}/api/letters/${letter.id}`, {
    data: { personId: now.personId, version: now.version, subject: now.subjectDoc, body: now.body },
  });
  await page.reload();
  await expect(page.getByRole("complementary").getByText("doesn’t allow writers to add links")).toBeVisible();
});

test("a passage is shared, used by a template, changed for all, and its deletion names who uses it", async ({
  page,
  program,
}) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  await page.goto(`${program.url}/passages`);
  await page.getByRole("button", { name: "New passage" }).click();
  await page.getByLabel("Name", { exact: true }).fill("Parking");
  await page.getByLabel("Shortcut").fill("parking");
  await page.getByLabel("Who can use it").selectOption("");
  await page.getByRole("textbox", { name: "Passage" }).fill("You can park in our yard, {{person.first_name|friend}}.");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.getByRole("list", { name: "Passages" })).toContainText("Parking");
  const made = await page.request.post(`${program.url}/api/templates`, {
    data: { name: "Comes by car", whenToUse: "", subject: "s", body: "Dear,\n{{>parking}}", state: "ready" },
  });
  const { id } = await made.json();
  await page.getByRole("button", { name: "Parking", exact: true }).click();
  const words = page.getByRole("textbox", { name: "Passage" });
  await words.press("Control+End");
  await page.keyboard.type(" It is free.");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.getByText("Templates that use it are updated.")).toHaveCount(2); // one for each time
  await page.goto(`${program.url}/templates/${id}`);
  await page.getByText("Try on a person").click();
  await expect(page.getByRole("region", { name: "Tried on" })).toContainText("It is free.");

  await page.goto(`${program.url}/passages`);
  await page.getByRole("button", { name: "Actions for Parking" }).click();
  await page.getByRole("menuitem", { name: "Delete" }).click();
  await expect(page.getByRole("dialog")).toContainText("Comes by car");
  await page.getByRole("button", { name: "Delete the passage" }).click();
  await expect(page.getByText("“Parking” was deleted.")).toBeVisible();
  const noted = await (await page.request.get(`${program.url}/api/templates/${id}`)).json();
  expect(noted.notes[0].message).toContain("no passage with the shortcut parking");
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByRole("list", { name: "Passages" })).toContainText("Parking");
});

test("a document is replaced once and every template follows", async ({ page, program }) => {
  await signIn(page, program.url, "greta@fernhollow.example");
  await page.goto(`${program.url}/documents`);
  await page.getByRole("button", { name: "Add a file" }).click();
  await page.getByLabel("Name", { exact: true }).fill("Prices");
  await page.getByLabel("Purpose").fill("With a first offer");
  await page
    .getByLabel("The file")
    .setInputFiles({ name: "prices.txt", mimeType: "text/plain", buffer: Buffer.from("one") });
  await page.getByRole("button", { name: "Save" }).click();
  const shelf = page.getByRole("list", { name: "Documents" });
  await expect(shelf).toContainText("prices.txt");
  await page.getByRole("button", { name: "Actions for Prices" }).click();
  await page.getByRole("menuitem", { name: "Replace the file" }).click();
  await page
    .getByLabel("The file")
    .setInputFiles({ name: "prices 2.txt", mimeType: "text/plain", buffer: Buffer.from("two") });
  await page.getByRole("button", { name: "Save" }).click();
  await expect(shelf).toContainText("prices 2.txt");
  await expect(shelf).toContainText("version 2");
  const list = await (await page.request.get(`${program.url}/api/documents`)).json();
  const prices = list.find((d: { name: string }) => d.name === "Prices");
  expect(await (await page.request.get(`${program.url}/api/documents/${prices.id}/file`)).text()).toBe("two");
});

test("a letter of the starter shelf is looked at with a real person and copied", async ({ desk, program }) => {
  await desk.goto(`${program.url}/templates`);
  await desk.getByRole("link", { name: "Starter shelf" }).click();
  const shelf = desk.getByRole("navigation", { name: "Starter shelf" });
  await shelf.getByRole("button", { name: /^Recap of a call/ }).click();
  const letter = desk.getByRole("region", { name: "Recap of a call" });
  await expect(letter).toContainText("what I took from it");
  await expect(letter).toContainText("would get it");
  await letter.getByRole("button", { name: "Copy to my templates" }).click();
  await expect(desk.getByRole("textbox", { name: "Name" })).toHaveValue("Recap of a call");
  await expect(desk.getByText("Draft: nobody can use it")).toBeVisible();
  await desk.getByRole("button", { name: "Make ready" }).click();
  await expect(desk.getByText("Ready: everybody can use it.")).toBeVisible();
});

test("a folder travels as one file into another copy of the program, where fields are mapped and nothing is overwritten", async ({
  page,
  program,
}) => {
  test.setTimeout(90_000);
  await signIn(page, program.url, "greta@fernhollow.example");
  await page.request.post(`${program.url}/api/fields`, {
    data: { path: "deal.own.doors", label: "Doors", type: "number" },
  });
  const folders = (await (await page.request.get(`${program.url}/api/folders`)).json()).folders;
  const inside = folders.find((f: { name: string }) => f.name === "Inside");
  await page.request.post(`${program.url}/api/templates`, {
    data: {
      name: "Doors counted",
      whenToUse: "",
      subject: "s",
      body: "{{deal.own.doors}} {{>survey}}",
      state: "ready",
      folderId: inside.id,
    },
  });
  const held = await page.request.get(`${program.url}/api/templates?folder=${inside.id}`);
  const templates = ((await held.json()).templates as unknown[]).length;
  expect(templates).toBeGreaterThan(1);
  await page.goto(`${program.url}/library`);
  await page.getByLabel("What to export").selectOption("Inside");
  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "Export library.zip" }).click();
  const path = await (await download).path();
  // Read by something that is not ours: the end of the central directory and one entry (APPNOTE 6.3.10, 4.3).
  const zip = readFileSync(path);
  const end = zip.lastIndexOf(Buffer.from("PK\u0005\u0006", "latin1"));
  expect(zip.readUInt16LE(end + 10)).toBe(templates + 1); // and library.json
  const name = zip.readUInt16LE(26);
  const central = zip.readUInt32LE(end + 16);
  const size = zip.readUInt32LE(central + 20);
  const library = JSON.parse(
    inflateRawSync(zip.subarray(30 + name + zip.readUInt16LE(28), 30 + name + zip.readUInt16LE(28) + size)).toString(),
  );
  expect(library.format).toBe("lucidletter/library");

  const other = await startProgram();
  try {
    const there = await page.context().browser()?.newPage();
    if (!there) throw new Error("no page");
    await signIn(there, other.url, "greta@fernhollow.example");
    await there.goto(`${other.url}/library`);
    await there
      .getByLabel("The archive")
      .setInputFiles({ name: "bad.zip", mimeType: "application/zip", buffer: Buffer.from("PK") });
    await expect(there.getByRole("alert")).toContainText("no ZIP file");
    await there
      .getByLabel("The archive")
      .setInputFiles({ name: "library.zip", mimeType: "application/zip", buffer: zip });
    const rows = there.getByRole("row");
    await expect(there.getByRole("status")).toContainText(`of ${templates} templates`);
    await expect(rows.filter({ hasText: "Introducing a colleague" })).toContainText("already here, unchanged");
    await expect(rows.filter({ hasText: "Doors counted" })).toContainText("It is a draft here");
    await there.getByLabel("Doors", { exact: false }).selectOption("create");
    await expect(rows.filter({ hasText: "Doors counted" })).not.toContainText("It is a draft here");
    await there.getByRole("button", { name: "Import" }).click();
    await expect(there.getByRole("status")).toContainText("Done.");
    await there.getByRole("link", { name: "Go to templates" }).click();
    await there.getByRole("searchbox", { name: "Search templates" }).fill("doors counted");
    await expect(there.getByRole("listitem").filter({ hasText: "Doors counted" })).toContainText("ready");
    await there.close();
  } finally {
    await other.stop();
  }
});

test("the deletion of an own field names the templates that use it, and it comes back", async ({ page, program }) => {
  await signIn(page, program.url, "otis@fernhollow.example");
  await page.goto(`${program.url}/fields`);
  await page.getByRole("button", { name: "New field" }).click();
  await page.getByLabel("Name", { exact: true }).fill("Colour of the door");
  await page.getByRole("combobox", { name: /^Belongs to/ }).selectOption("deal");
  await page.getByRole("button", { name: "Add the field" }).click();
  const fields = page.getByRole("list", { name: "Custom fields" });
  await expect(fields).toContainText("deal.own.colour_of_the_door");
  // A name in letters that no path has, too.
  await page.getByRole("button", { name: "New field" }).click();
  await page.getByLabel("Name").fill("لون الباب");
  await page.getByRole("button", { name: "Add the field" }).click();
  await expect(fields).toContainText("لون الباب");
  await expect(fields).toContainText("person.own.field");
  const made = await page.request.post(`${program.url}/api/templates`, {
    data: {
      name: "Door colours",
      whenToUse: "",
      subject: "s",
      body: "{{deal.own.colour_of_the_door}}",
      state: "ready",
    },
  });
  const { id } = await made.json();
  await page.getByRole("button", { name: "Actions for Colour of the door" }).click();
  await page.getByRole("menuitem", { name: "Delete" }).click();
  await expect(page.getByRole("dialog")).toContainText("Door colours");
  await page.getByRole("button", { name: "Delete the field" }).click();
  await expect(fields).not.toContainText("deal.own.colour_of_the_door");
  const noted = await (await page.request.get(`${program.url}/api/templates/${id}`)).json();
  expect(noted.notes[0].code).toBe("unknown");
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(fields).toContainText("deal.own.colour_of_the_door");
});
