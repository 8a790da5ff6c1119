// Writes core/plan/testdata/holidays.json: the public holidays of countries, of three years, as the package
// date-holidays has them, to check ours against. It need not be installed otherwise:
//
//   npm install --no-save --prefix DIR date-holidays@3 && node scripts/holidays.mjs DIR AT,BE,...
//
// Its data are under CC BY-SA 3.0, by the contributors of date-holidays, drawn from articles that it names.
import { writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { join, resolve } from "node:path";

const [from, countries] = process.argv.slice(2);
if (!from || !countries) throw new Error("say where date-holidays is installed, and which countries");
const load = createRequire(join(resolve(from), "package.json"));
const Holidays = load("date-holidays");

const out = { source: `npm date-holidays ${load("date-holidays/package.json").version}, data CC BY-SA 3.0`, days: {} };
for (const country of countries.split(",")) {
  const all = [2026, 2027, 2028].flatMap((year) => new Holidays(country).getHolidays(year));
  const days = all.filter(({ type }) => type === "public").map(({ date }) => date.slice(0, 10));
  out.days[country] = [...new Set(days)].sort().join(" ");
}
writeFileSync("core/plan/testdata/holidays.json", `${JSON.stringify(out, null, 1)}\n`);
