import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";
import { expect, test } from "@playwright/test";

type Sample = {
  Locale: string;
  Kind: "date" | "number" | "money" | "relative";
  Form: string;
  Value: string;
  Ours: string;
};

const styles = { short: "short", medium: "medium", long: "long", weekday: "full" } as const;

/** The same value as Node's Intl writes it (ICU, CLDR), with Latin digits. */
function intl({ Locale, Kind, Form, Value }: Sample): string {
  const locale = new Intl.Locale(Locale, { numberingSystem: "latn" });
  switch (Kind) {
    case "date":
      return new Intl.DateTimeFormat(locale, {
        dateStyle: styles[Form as keyof typeof styles],
        timeZone: "UTC",
      }).format(new Date(Value));
    case "number":
      return new Intl.NumberFormat(locale, { maximumFractionDigits: 6 }).format(Number(Value));
    case "money": {
      const [amount, currency] = Value.split(" ");
      return new Intl.NumberFormat(locale, { style: "currency", currency }).format(Number(amount));
    }
    case "relative":
      return new Intl.RelativeTimeFormat(locale, { numeric: "auto" }).format(Number(Value), "day");
  }
}

/** Spaces and direction marks that ICU puts in and a reader does not see are the same to us. */
const seen = (s: string) => s.replace(/[\u200e\u200f\u061c]/g, "").replace(/[\u00a0\u202f]/g, " ");

test("dates, numbers, amounts and distances are written as Intl writes them", () => {
  const dir = mkdtempSync(join(tmpdir(), "lucid-intl-"));
  try {
    execFileSync("go", ["test", "-count=1", "-run", "TestReader_samplesForIntl", "./core/field"], {
      cwd: resolve(import.meta.dirname, "../.."),
      env: { ...process.env, LUCID_INTL: dir },
    });
    const samples = JSON.parse(readFileSync(join(dir, "samples.json"), "utf8")) as Sample[];
    const differing = samples
      .filter((s) => seen(s.Ours) !== seen(intl(s)))
      .map((s) => `${s.Locale} ${s.Kind} ${s.Form} ${s.Value}: ours ${s.Ours}, Intl ${intl(s)}`);
    expect(differing).toEqual([]);
  } finally {
    rmSync(dir, { recursive: true, force: true });
  }
});
