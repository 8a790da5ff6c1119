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

test("a round on the command line: the preflight as the screen has it, then it goes", async ({ desk, program }) => {
  for (const [first, email, city] of [
    ["Una", "una@clay.example", "Clayton"],
    ["Vic", "", "Clayton"],
    ["", "wes@clay.example", "Clayton"],
  ]) {
    const values = {
      "person.first_name": first,
      "person.last_name": "Clay",
      "person.email": email,
      "person.city": city,
    };
    const made = await desk.request.post(`${program.url}/api/records/person`, {
      data: { kind: "lead", values: { ...values, "person.basis": "Asked us" } },
    });
    expect(made.ok(), await made.text()).toBe(true);
  }
  const list = { name: "Clayton", filter: 'person.city is "Clayton"', sort: "", down: false, shared: false };
  expect((await desk.request.post(`${program.url}/api/lists`, { data: list })).ok()).toBe(true);
  const template = {
    name: "To Clayton",
    whenToUse: "",
    subject: "Hello",
    body: "Dear {{person.first_name}}",
    kind: "plain",
  };
  const rest = { state: "ready", tags: [], language: "", stationery: 0 };
  expect((await desk.request.post(`${program.url}/api/templates`, { data: { ...template, ...rest } })).ok()).toBe(true);

  const args = ["round", "--data", program.data, "--as", "imre@fernhollow.example", "--list", "Clayton", "--template"];
  const before = await (await desk.request.get(`${program.url}/api/rounds`)).json();
  const checked = await run(program.binary, [...args, "to clayton", "--check"]);
  expect(checked.code).toBe(4); // somebody has a gap
  const report = JSON.parse(checked.out);
  expect(report).toMatchObject({ total: 3, counts: { ready: 1, gap: 1, skipped: 1 } });
  expect(report.missing[0]).toMatchObject({ path: "person.first_name", count: 1 });
  expect(report.people.map((p: { state: string; why?: string }) => `${p.state} ${p.why ?? ""}`).sort()).toEqual([
    "gap ",
    "ready ",
    "skipped No email address",
  ]);
  // A check keeps nothing.
  expect(await (await desk.request.get(`${program.url}/api/rounds`)).json()).toHaveLength(before.length);

  const sent = await run(program.binary, [...args, "To Clayton", "--fill", "person.first_name=there", "--send"]);
  expect(sent).toMatchObject({ code: 0 });
  const { round } = JSON.parse(sent.out);
  const same = await (await desk.request.get(`${program.url}/api/rounds/${round}/report`)).json();
  expect(same).toMatchObject({ round, total: 3, list: "Clayton", template: "To Clayton" });
  await desk.goto(`${program.url}/rounds/${round}`);
  await expect(desk.getByRole("region", { name: "Results" }).getByRole("button", { name: /^2\s*Sent/ })).toBeVisible({
    timeout: 90_000, // the program that serves looks once a minute
  });
  const none = await run(program.binary, [...args, "No such template", "--check"]);
  expect(none.err).toContain('0 ready templates are called "No such template"');
});
