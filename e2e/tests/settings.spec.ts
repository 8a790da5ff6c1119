import { dkimVerify } from "mailauth/lib/dkim/verify.js";
import { expect, reachable, signIn, switchTo, test } from "../fixtures.ts";
import { type Program, startProgram } from "../program.ts";

// The way of letters is changed, so this has a program of its own.
let program: Program;
test.beforeAll(async () => {
  program = await startProgram();
});
test.afterAll(() => program.stop());

test("a mail server is added, tried out with the reason where it fails, and signs letters; the foot is set", async ({
  page,
}) => {
  await signIn(page, program.url, "imre@fernhollow.example");
  await page.goto(`${program.url}/settings`);
  await expect(page.getByText("Only administrators can change these")).toBeVisible();
  await expect(page.getByRole("button", { name: "Save" })).toBeHidden();
  await switchTo(page, program.url, "otis@fernhollow.example");
  await page.getByRole("button", { name: /^Account of/ }).click();
  await page.getByRole("menuitem", { name: "Settings" }).click();
  await expect(page.getByText("All letters go to the built-in post office")).toBeVisible();

  await page.getByRole("button", { name: "Add a mail server" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByLabel("Name").fill("The office server");
  const sending = dialog.getByRole("group", { name: "Sending" });
  const [host = "", port = ""] = program.post.split(":");
  await sending.getByLabel("Server").fill(host);
  await sending.getByLabel("Port").fill("1");
  await sending.getByLabel("User").fill("office");
  await dialog.getByRole("button", { name: "Save" }).click();
  await expect(dialog.getByRole("alert")).toContainText("needs a password");
  await sending.getByLabel("Sign in with").selectOption("nothing");
  await sending.getByLabel("Security").selectOption("none");
  await dialog.getByRole("button", { name: "Save" }).click();
  const servers = page.getByRole("region", { name: "Mail servers" });
  await expect(servers).toContainText("The office server");
  await servers.getByRole("button", { name: "Test connection" }).click();
  await expect(servers.getByRole("list", { name: /^Test of/ })).toContainText("Check the port");
  await servers.getByRole("button", { name: "Change" }).click();
  await sending.getByLabel("Port").fill(port);
  await dialog.getByRole("button", { name: "Save" }).click();
  await servers.getByRole("button", { name: "Test connection" }).click();
  await expect(servers).toContainText("This server works.");
  await servers.getByRole("button", { name: "Remove" }).click();
  await expect(page.getByText("All letters go to the built-in post office")).toBeVisible();
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(servers).toContainText("The office server");

  await servers.getByRole("button", { name: "Sign letters" }).click();
  await dialog.getByLabel("Your email domain").fill("fernhollow.example");
  await dialog.getByRole("button", { name: "Create the key" }).click();
  const name = await dialog.getByText("letters1._domainkey.fernhollow.example").textContent();
  const record = (await dialog.getByText("v=DKIM1").textContent()) ?? "";
  await page.keyboard.press("Escape");

  await page.getByLabel("Add an unsubscribe link").check();
  await page.getByLabel("Link text").fill("No more letters, please");
  await page.getByLabel("Add the team’s postal address").check();
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.getByText("Stored.")).toBeVisible();

  const [one] = await reachable(page, program.url, "contact");
  await page.goto(`${program.url}/people/${one.id}`);
  await page.getByRole("heading", { level: 1 }).waitFor();
  await page.keyboard.press("w");
  await page.getByRole("combobox", { name: "Search templates" }).fill("an empty letter");
  await page.keyboard.press("Enter");
  await page.getByRole("textbox", { name: "Subject" }).fill("Signed");
  await page.getByRole("textbox", { name: "Letter" }).fill("Hello, only a word.");
  await page.getByRole("button", { name: /^Send to / }).click();
  await expect(page.getByText("Filed as it was sent")).toBeVisible();
  const list = await (await page.request.get(`${program.url}/api/post-office/${one.email}`)).json();
  const { source } = await (await page.request.get(`${program.url}/api/post-office-letters/${list[0].id}`)).json();
  expect(source).toMatch(/No more letters, please: http\S+\/out\//);
  expect(source).toContain("Fernhollow");
  // The signature is checked by somebody else's verifier (npm mailauth, RFC 6376), with
  // the record as it is to be published.
  const said = await dkimVerify(source, {
    resolver: async (asked: string, kind: string) => {
      if (asked === name && kind === "TXT") return [[record]];
      throw Object.assign(new Error("not found"), { code: "ENOTFOUND" });
    },
  });
  expect(said.results.map((r: { status: { result: string } }) => r.status.result)).toEqual(["pass"]);
  // It covers the header by which one opts out (RFC 8058 section 4).
  expect(/DKIM-Signature:[\s\S]*?;\s*h=([^;]*)/i.exec(source)?.[1]?.toLowerCase()).toContain("list-unsubscribe");
  const changed = await dkimVerify(source.replace("only a word", "another word"), {
    resolver: async () => [[record]],
  });
  expect(changed.results[0]?.status.result).not.toBe("pass");
});
