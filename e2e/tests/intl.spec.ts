import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";
import { expect, test } from "@playwright/test";

type Sample = {
  Locale: string;
  Kind: "date" | "number" | "money" | "relative" | "list";
  Form: string;
  Value: string;
  Ours: string;
};

const styles = { short: "short", medium: "medium", long: "long", weekday: "full" } as const;

/** Intl objects are slow to make; one serves all samples of a locale and form. */
const made = new Map<string, unknown>();
function once<T>(key: string, make: () => T): T {
  if (!made.has(key)) made.set(key, make());
  return made.get(key) as T;
}

/** The same value as Node's Intl writes it (ICU, CLDR), in the Gregorian calendar. */
function intl({ Locale, Kind, Form, Value }: Sample): string {
  const key = `${Locale} ${Kind} ${Form}`;
  switch (Kind) {
    case "date":
      return once(key, () => {
        const dateStyle = styles[Form as keyof typeof styles];
        return new Intl.DateTimeFormat(Locale, { dateStyle, timeZone: "UTC", calendar: "gregory" });
      }).format(new Date(Value));
    case "number":
      return once(key, () => new Intl.NumberFormat(Locale, { maximumFractionDigits: 6 })).format(Number(Value));
    case "money": {
      const [amount, currency] = Value.split(" ");
      return once(`${key} ${currency}`, () => new Intl.NumberFormat(Locale, { style: "currency", currency })).format(
        Number(amount),
      );
    }
    case "relative":
      return once(key, () => new Intl.RelativeTimeFormat(Locale, { numeric: "auto" })).format(Number(Value), "day");
    case "list":
      return new Intl.ListFormat(Locale).format(["Ada", "Bo", "Cy", "Dee"].slice(0, Number(Value)));
  }
}

// Every locale that CLDR covers at its modern level, to the letter: spaces and direction marks included.
test("dates, numbers, amounts, distances and lists are written as Intl writes them", () => {
  test.setTimeout(240_000);
  const dir = mkdtempSync(join(tmpdir(), "lucid-intl-"));
  try {
    execFileSync("go", ["test", "-count=1", "-run", "TestReader_samplesForIntl", "./core/field"], {
      cwd: resolve(import.meta.dirname, "../.."),
      env: { ...process.env, LUCID_INTL: dir },
    });
    const samples = JSON.parse(readFileSync(join(dir, "samples.json"), "utf8")) as Sample[];
    const differing = samples.filter((s) => s.Ours !== intl(s));
    const told = differing.map((s) => `${s.Locale} ${s.Kind} ${s.Form} ${s.Value}: ours ${s.Ours}, Intl ${intl(s)}`);
    expect(new Set(samples.map((s) => s.Locale)).size).toBeGreaterThan(400);
    expect(told).toEqual([]);
  } finally {
    rmSync(dir, { recursive: true, force: true });
  }
});
