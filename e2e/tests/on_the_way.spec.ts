import { expect, lead, template, test } from "../fixtures.ts";

// A letter that waits to go is seen wherever what it says is changed, and never goes to an address that was changed.

test("a letter on its way is named when its person is changed, merged or deleted, and says why it stays", async ({
  desk,
  program,
}) => {
  const { url } = program;
  const values = (last: string, email: string) => ({
    "person.first_name": "Rosalind",
    "person.last_name": last,
    "person.email": email,
    "person.basis": "Asked us",
  });
  const id = await lead(desk, url, values("Underhay", "rosalind@underhay.example"));
  await lead(desk, url, values("Underhey", "r.underhey@underhay.example"));
  const templateId = await template(
    desk,
    url,
    "On its way",
    "Your room",
    "Dear {{person.first_name}},\n\nIt is ready.",
  );
  const begun = await desk.request.post(`${url}/api/letters`, { data: { personId: id, templateId } });
  const letter = await begun.json();
  const later = `${new Date(Date.now() + 9 * 86_400_000).toISOString().slice(0, 10)}T10:00`;
  const sent = await desk.request.post(`${url}/api/letters/${letter.id}/send`, {
    data: { version: letter.version, to: "rosalind@underhay.example", local: later },
  });
  expect(sent.ok(), await sent.text()).toBe(true);

  // Deleting names it, and so does merging.
  await desk.goto(`${url}/people/${id}`);
  const more = async (what: string) => {
    await desk.getByRole("button", { name: "More about this person" }).click();
    await desk.getByRole("menuitem", { name: what }).click();
  };
  await more("Delete");
  const ask = desk.getByRole("dialog", { name: "Delete Rosalind Underhay?" });
  await expect(ask).toContainText("1 letter waits to go. It won’t go then.");
  await expect(ask.getByRole("link", { name: "Your room" })).toBeVisible();
  await desk.keyboard.press("Escape");
  await more("Merge another record into this one");
  const form = desk.getByRole("dialog", { name: /^Merge another record into/ });
  await form.getByRole("combobox", { name: "The other record" }).fill("underhey");
  await desk.getByRole("option", { name: /Underhey/ }).click();
  await expect(form).toContainText("1 letter waits to go. If it says something else than the record does then");
  await desk.keyboard.press("Escape");
  await expect(form).toBeHidden();

  // The address is changed: the record and the outbox say that the letter will not go like this.
  await desk.getByRole("button", { name: "Email: rosalind@underhay.example, change" }).click();
  const input = desk.getByRole("textbox", { name: "Email" });
  await input.fill("rosalind.underhay@underhay.example");
  await input.press("Enter");
  const told = desk.getByRole("status").filter({ hasText: "1 letter on its way" });
  await expect(told).toContainText("1 letter on its way won’t go like this:");
  await expect(told).toContainText("rosalind@underhay.example");
  await desk.goto(`${url}/outbox`);
  const line = desk.getByRole("listitem").filter({ hasText: "Rosalind Underhay" });
  await expect(line).toContainText("Won’t go like this.");
  await expect(line).toContainText("rosalind@underhay.example");
});
