import { execFile } from "node:child_process";
import { writeFileSync } from "node:fs";
import { expect, test } from "../fixtures.ts";

type Answer = { code: number; out: string; err: string };

function run(binary: string, args: string[], input = ""): Promise<Answer> {
  return new Promise((done) => {
    const child = execFile(binary, args, (error, out, err) => done({ code: Number(error?.code ?? 0), out, err }));
    child.stdin?.end(input);
  });
}

test("import and user add on the command line, while the program runs", async ({ desk, program }, info) => {
  const file = info.outputPath("more.csv");
  const args = ["import", file, "--data", program.data, "--as", "imre@fernhollow.example"];
  writeFileSync(file, "Name\tE-mail\nHanne Uhl\thanne@uhl.example\nBad\tb@@d\n");
  const refused = await run(program.binary, args);
  expect(refused).toMatchObject({ code: 2 });
  expect(refused.out).toContain(`${file}:3: refused: E-mail: "b@@d" is not an email address`);
  expect(refused.err).toContain("nothing was imported");
  const taken = await run(program.binary, [...args, "--skip-refused"]);
  expect(taken).toMatchObject({ code: 0 });
  expect(taken.out).toContain("2 rows: 1 created, 0 updated, 0 already the same, 1 refused");
  await desk.goto(`${program.url}/people?q=uhl`);
  await expect(desk.getByRole("link", { name: "Hanne Uhl" })).toBeVisible();

  const user = ["user", "add", "pia@fernhollow.example", "--first", "Pia", "--data", program.data];
  expect((await run(program.binary, user, "short\n")).err).toContain("password: must have 10 to 72 bytes");
  expect((await run(program.binary, user, "long enough\n")).out).toContain("pia@fernhollow.example can sign in now.");
  const unknown = await run(program.binary, [...args.slice(0, -1), "who@fernhollow.example"]);
  expect(unknown).toMatchObject({ code: 1 });
  expect(unknown.err).toContain("there is no user");
});
