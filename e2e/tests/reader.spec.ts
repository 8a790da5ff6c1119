import { execFileSync } from "node:child_process";
import { mkdtempSync, readdirSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";
import { expect, test } from "@playwright/test";
import { simpleParser } from "mailparser";

// The letters of TestCompose_readByNetMail and _bothForms (internal/mail), written out and read by npm mailparser, which has nothing
// in common with what composed them.
type Expected = {
  subject?: string;
  to?: string;
  from?: string;
  text?: (text: string) => void;
  html?: (html: string) => void;
};
const expected: Record<string, Expected> = {
  plain: { text: (t) => expect(t).toBe("Dear Ada,\n\nhello.\n") },
  names: { to: "Zoë Žižkova-Łęcka", from: 'Falk, Imre "I." (North)' },
  "no name": { to: "" },
  "emoji subject": { subject: `🌷 Blumen für Müller & Söhne — ${"länger ".repeat(30)}Ende` },
  "long lines": { text: (t) => expect(t).toBe(`${"word ".repeat(2000)}\n${"x".repeat(1500)}\nend\n`) },
  dots: { text: (t) => expect(t).toBe(".\n..\n.hidden\nend\n.\n") },
  "mostly foreign": { text: (t) => expect(t).toBe("こんにちは、田中さん。\n冷蔵室のお見積りです。\n") },
  "both forms": { html: (h) => expect(h).toContain(`<p>Dear Ada – ${"<b>x</b>".repeat(400)}</p>`) },
  "odd spaces": { text: (t) => expect(t).toBe("trailing  \n\ttab = 50%\nFrom here\n") },
};

test("an independent reader reads every letter as it was written", async () => {
  test.setTimeout(180_000); // the program’s tests are compiled for it
  const dir = mkdtempSync(join(tmpdir(), "lucid-letters-"));
  try {
    execFileSync("go", ["test", "-count=1", "-run", "TestCompose_(readByNetMail|bothForms)", "./internal/mail"], {
      cwd: resolve(import.meta.dirname, "../.."),
      env: { ...process.env, LUCID_LETTERS: dir },
    });
    expect(readdirSync(dir).sort()).toEqual(
      Object.keys(expected)
        .map((n) => `${n}.eml`)
        .sort(),
    );
    for (const [name, want] of Object.entries(expected)) {
      const read = await simpleParser(readFileSync(join(dir, `${name}.eml`)));
      expect(read.subject, name).toBe(want.subject ?? "Cold");
      expect(read.from?.value, name).toEqual([{ name: want.from ?? "Imre Falk", address: "imre@fernhollow.example" }]);
      expect(read.to, name).toMatchObject({ value: [{ name: want.to ?? "Ada Quill", address: "ada@quill.example" }] });
      expect(read.messageId, name).toBe("<id1@fernhollow.example>");
      expect(read.date?.toISOString(), name).toBe("2026-03-02T09:30:00.000Z");
      want.text?.(read.text ?? "");
      want.html?.(read.html || "");
    }
  } finally {
    rmSync(dir, { recursive: true, force: true });
  }
});
