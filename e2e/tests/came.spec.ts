import { createTransport } from "nodemailer";
import { expect, test } from "../fixtures.ts";

test("a stranger writes in with a file and copies; the answer makes them a lead and warns of who else gets it", async ({
  desk,
  program,
}) => {
  const [host = "", port = ""] = program.door.split(":");
  const outside = createTransport({ host, port: Number(port), ignoreTLS: true });
  await expect(
    outside.sendMail({ from: "x@else.example", to: "nobody@fernhollow.example", subject: "x", text: "x" }),
  ).rejects.toThrow(/550/);
  await outside.sendMail({
    from: "Wanda Pell <wanda@pell-orchids.example>",
    to: "imre@fernhollow.example",
    cc: "The nephew <nephew@pell-orchids.example>, greta@fernhollow.example",
    subject: "A room for <orchids> & ferns",
    html: '<p>Could you look at our <b>cellar</b>?</p><script>document.title = "taken over"</script><img src="http://tracker.example/x.gif">',
    attachments: [{ filename: "cellar.txt", content: "four by three metres" }],
  });
  outside.close();
  await desk.goto(`${program.url}/today`);
  const answers = desk.getByRole("region", { name: "Replies" });
  await answers.getByRole("link", { name: /Wanda Pell/ }).click();
  const letter = desk.getByRole("article", { name: "Came in: A room for <orchids> & ferns" });
  await expect(letter.frameLocator("iframe").getByText("cellar")).toBeVisible();
  expect(await letter.locator("iframe").getAttribute("srcdoc")).not.toMatch(/<script|src="http/);
  const [file] = await Promise.all([
    desk.waitForEvent("download"),
    letter.getByRole("link", { name: "cellar.txt" }).click(),
  ]);
  expect(file.suggestedFilename()).toBe("cellar.txt");
  await letter.getByRole("button", { name: "Reply all" }).click();
  await expect(desk.getByRole("textbox", { name: "Subject" })).toHaveText("Re: A room for <orchids> & ferns");
  await expect(desk.getByRole("complementary", { name: "Margin notes" })).toContainText(
    "nephew@pell-orchids.example gets this letter too and is not in your records.",
  );
  await desk.getByRole("textbox", { name: "Letter" }).click();
  await desk.keyboard.press("Control+Home");
  await desk.keyboard.type("Gladly. When may we come?");
  await desk.getByRole("button", { name: "Remove the quote" }).click();
  await expect(desk.getByText("You are not quoting")).toBeVisible();
  await desk.getByRole("button", { name: /^Send to Wanda Pell/ }).click();
  await expect(desk.getByText("Filed as it was sent")).toBeVisible();
  await expect(desk.getByRole("heading", { level: 1 })).toHaveText("Wanda Pell");
  await desk.goto(`${program.url}/today`);
  await expect(desk.getByRole("main")).not.toContainText("Wanda Pell");
});
