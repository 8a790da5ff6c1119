import { expect, test } from "../fixtures.ts";

const file = (name: string, rows: string[]) => ({
  name,
  mimeType: "text/csv",
  buffer: Buffer.from(["First name,Last name,Email", ...rows].join("\n")),
});

test("a second file chosen while the first is read is the one that is shown, and skipping is agreed to anew", async ({
  desk,
  program,
}) => {
  await desk.goto(`${program.url}/people/import`);
  let first = () => {};
  const held = new Promise<void>((go) => {
    first = go;
  });
  let answered = 0;
  await desk.route("**/api/imports?*", async (route) => {
    if (answered++ > 0) return route.continue();
    await held;
    await route.continue().catch(() => {});
  });
  const choose = desk.getByLabel(/hoose (a CSV|another) file/);
  await choose.setInputFiles(file("first.csv", ["Ida,Wend,ida@wend.example", "Jo,Wend,not an address"]));
  await expect(desk.getByText("Reading the file …")).toBeVisible();
  await choose.setInputFiles(
    file("second.csv", [
      "Kit,Wend,kit@wend.example",
      "Lea,Wend,lea@wend.example",
      "Mo,Wend,mo@wend.example",
      "No,Wend,none at all",
    ]),
  );
  await expect(desk.getByRole("button", { name: "Import 3 people" })).toBeVisible();
  first();
  await expect(desk.getByText("second.csv · choose another file")).toBeVisible();
  await expect(desk.getByRole("button", { name: "Import 3 people" })).toBeDisabled();
  const skip = desk.getByRole("checkbox", { name: /Skip these rows/ });
  await skip.check();
  await expect(desk.getByRole("button", { name: "Import 3 people" })).toBeEnabled();
  await choose.setInputFiles(file("third.csv", ["Pia,Wend,pia@wend.example", "Quo,Wend,nothing"]));
  await expect(desk.getByRole("button", { name: "Import 1 person" })).toBeDisabled();
  await expect(skip).not.toBeChecked();
});
