import type { Page } from "@playwright/test";
import { expect, lead, password, test } from "../fixtures.ts";

// A letter goes as its proof showed it.

test("stationery that is changed between the proof and the sending is told in the proof, which shows it then", async ({
  desk,
  program,
  browser,
}) => {
  const { url } = program;
  const values = { "person.first_name": "Prue", "person.last_name": "Proof", "person.email": "prue@proof.example" };
  const id = await lead(desk, url, { ...values, "person.basis": "Asked us" });
  const made = await desk.request.post(`${url}/api/letters`, { data: { personId: id } });
  await desk.goto(`${url}/letters/${(await made.json()).id}`);
  await desk.getByRole("textbox", { name: "Subject" }).fill("Your room");
  await desk.getByRole("button", { name: "Format it" }).click();
  await expect(desk.getByRole("toolbar", { name: "Formatting" })).toBeVisible();
  await desk.getByRole("textbox", { name: "Letter" }).press("Control+Home");
  await desk.keyboard.type("Dear Prue, your room is ready. ");
  await desk.getByRole("button", { name: "Proof", exact: true }).click();
  const proof = desk.getByRole("dialog", { name: "Proof for Prue Proof" });
  await expect(proof.frameLocator("iframe").getByText("your room is ready")).toBeVisible();

  const other = await browser.newContext();
  const lead2: Page = await other.newPage();
  await lead2.request.post(`${url}/api/session`, { data: { email: "greta@fernhollow.example", password } });
  const all = await (await lead2.request.get(`${url}/api/stationery`)).json();
  const house = all.find((s: { default: boolean }) => s.default);
  const header = { ...house.header, content: [{ type: "paragraph", content: [{ type: "text", text: "New owners" }] }] };
  const { name, footer, ready, version } = house;
  const changed = await lead2.request.put(`${url}/api/stationery/${house.id}`, {
    data: { name, header, footer, ready, default: true, version },
  });
  expect(changed.ok(), await changed.text()).toBe(true);
  await other.close();

  await proof.getByRole("button", { name: "Send to Prue Proof" }).click();
  await expect(proof.getByRole("alert")).toContainText("was changed since you looked");
  await expect(proof.frameLocator("iframe").getByText("New owners")).toBeVisible();
  await proof.getByRole("button", { name: "Send to Prue Proof" }).click();
  await expect(desk.getByText(/Filed as it was sent/)).toBeVisible();
});
