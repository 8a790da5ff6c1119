import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";
import { expect, test } from "@playwright/test";
import Mustache from "mustache";

type Sample = { Template: string; Data: unknown; Ours: string };

// The generated templates of TestMustache_cbroglie (core/template), merged by npm mustache as the second reference. Both
// escape the same signs; npm mustache writes some with other references, and escapes / ` = besides.
const escaped: Record<string, string> = { "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&#34;", "'": "&#39;" };

test("npm mustache merges the generated templates alike", () => {
  const dir = mkdtempSync(join(tmpdir(), "lucid-mustache-"));
  try {
    execFileSync("go", ["test", "-count=1", "-run", "TestMustache_cbroglie", "./core/template"], {
      cwd: resolve(import.meta.dirname, "../.."),
      env: { ...process.env, LUCID_MUSTACHE: dir },
    });
    const samples = JSON.parse(readFileSync(join(dir, "samples.json"), "utf8")) as Sample[];
    expect(samples.length).toBe(3000);
    const asOurs = (s: unknown) => String(s).replace(/[&<>"']/g, (c) => escaped[c] ?? c);
    // On purpose, an only-when that does not hold leaves neither two spaces nor one before a mark.
    const squeezed = (x: string) => x.replace(/[ \t]{2,}/g, " ").replace(/[ \t]+([,.;:!?])/g, "$1");
    for (const s of samples)
      expect(squeezed(Mustache.render(s.Template, s.Data, {}, { escape: asOurs })), s.Template).toBe(squeezed(s.Ours));
  } finally {
    rmSync(dir, { recursive: true, force: true });
  }
});
