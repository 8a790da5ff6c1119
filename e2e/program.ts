import { type ChildProcess, spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";
import { createInterface } from "node:readline";

const binary = resolve(import.meta.dirname, "../bin/lucidletter");

/** One copy of the program on its own data folder and free ports, with the sample workspace. */
export type Program = {
  url: string;
  post: string;
  door: string;
  data: string;
  binary: string;
  stop: () => Promise<void>;
};

export async function startProgram(...flags: string[]): Promise<Program> {
  const data = mkdtempSync(join(tmpdir(), "lucid-e2e-"));
  const child = spawn(
    binary,
    [
      "demo",
      "--data",
      data,
      "--addr",
      "127.0.0.1:0",
      "--post-office",
      "127.0.0.1:0",
      "--door",
      "127.0.0.1:0",
      // A machine that is shared can be many times slower for a while.
      "--patience",
      "20s",
      // Recipients do only what a test sets.
      "--seed",
      "0",
      ...flags,
    ],
    {
      stdio: ["ignore", "pipe", "inherit"],
    },
  );
  const [url, door, post] = await addressesOf(child);
  const ended = new Promise<void>((done) => {
    child.once("exit", () => done());
  });
  return {
    url,
    post,
    door,
    data,
    binary,
    stop: async () => {
      child.kill("SIGTERM");
      await ended;
      rmSync(data, { recursive: true, force: true });
    },
  };
}

/** Where the screens are, where mail from outside is taken in, and where the post office takes mail. */
function addressesOf(child: ChildProcess): Promise<[url: string, door: string, post: string]> {
  return new Promise((done, fail) => {
    child.once("exit", (code) => fail(new Error(`the program ended with ${code} before it was ready`)));
    if (!child.stdout) return fail(new Error("no output"));
    let url = "";
    let door = "";
    createInterface({ input: child.stdout }).on("line", (line) => {
      url = /ready: (http:\S+)/.exec(line)?.[1] ?? url;
      door = /taken in at (\S+)/.exec(line)?.[1] ?? door;
      const post = /takes mail at (\S+)/.exec(line)?.[1];
      if (post) done([url, door, post]);
    });
  });
}
