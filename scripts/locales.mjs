// Writes core/field/locales.json: how every locale that CLDR covers at its modern level writes dates, numbers, amounts,
// distances, lists, yes and no. Dates and numbers are those of Node's Intl (ICU); which locales there are, and the words
// for yes and no, are those of the packages cldr-core and cldr-misc-full, which need not be installed otherwise:
//
//   npm install --no-save --prefix DIR cldr-core@48 cldr-misc-full@48 && node scripts/locales.mjs DIR
//
// The calendar is always the Gregorian one. A locale holds what differs from its parent: de-AT from de, de from root.
import { readFileSync, writeFileSync } from "node:fs";
import { join, resolve } from "node:path";

const [from] = process.argv.slice(2);
if (!from) throw new Error("say where cldr-core and cldr-misc-full are installed");
const read = (path) => JSON.parse(readFileSync(join(resolve(from), "node_modules", path), "utf8"));

const levels = read("cldr-core/coverageLevels.json").effectiveCoverageLevels;
const wanted = Object.keys(levels).filter((id) => levels[id] === "modern" && id !== "und");
const locales = wanted.filter((id) => {
  const [known] = Intl.DateTimeFormat.supportedLocalesOf([id]);
  return known && new Intl.NumberFormat(id).resolvedOptions().locale.startsWith(id.split("-")[0]);
});
const left = wanted.filter((id) => !locales.includes(id));

const days = Array.from({ length: 12 }, (_, m) => new Date(Date.UTC(2026, m, 15)));
const week = Array.from({ length: 7 }, (_, d) => new Date(Date.UTC(2026, 1, 1 + d))); // from Sunday
const styles = ["short", "medium", "long", "full"];
const currencies = Intl.supportedValuesOf("currency");

/** The pattern of a date style: {d} {dd} {M} {MM} {y} {yy} {E} {Nk} for the k-th list of month names. */
function dates(id) {
  const months = [];
  let weekdays = [];
  const patterns = styles.map((dateStyle) => {
    const f = new Intl.DateTimeFormat(id, { dateStyle, calendar: "gregory", timeZone: "UTC" });
    // Whole dates have a plain space where the parts have a narrow one.
    const parts = (d) => f.formatToParts(d).map((p) => ({ ...p, value: p.value.replaceAll("\u202f", " ") }));
    const part = (d, type) => parts(d).find((p) => p.type === type)?.value;
    const digits = (s) => [...s].length;
    return parts(new Date(Date.UTC(2026, 2, 5)))
      .map(({ type, value }) => {
        switch (type) {
          case "day":
            return digits(value) === 2 ? "{dd}" : "{d}";
          case "year":
            return digits(value) === 2 ? "{yy}" : "{y}";
          case "weekday":
            weekdays = week.map((d) => part(d, "weekday"));
            return "{E}";
          case "month": {
            if (/^\p{Nd}+$/u.test(value)) return digits(value) === 2 ? "{MM}" : "{M}";
            const names = days.map((d) => part(d, "month"));
            let k = months.findIndex((m) => m.join() === names.join());
            if (k < 0) k = months.push(names) - 1;
            return `{N${k}}`;
          }
          default:
            return value;
        }
      })
      .join("");
  });
  return { d: patterns, m: months, w: weekdays };
}

function sign(parts, type) {
  return parts.find((p) => p.type === type)?.value ?? "";
}

/** The shape of an amount: ¤ the currency, # the number, - the sign. */
function shape(parts) {
  let number = false;
  return parts
    .map(({ type, value }) => {
      if (type === "currency") return "¤";
      if (type === "minusSign") return "-";
      if (["integer", "group", "decimal", "fraction"].includes(type)) {
        if (number) return "";
        number = true;
        return "#";
      }
      return value;
    })
    .join("");
}

function numbers(id) {
  const f = new Intl.NumberFormat(id, { maximumFractionDigits: 6 });
  const big = f.formatToParts(-123456789.5);
  const before = big.slice(0, big.findIndex((p) => p.type === "integer"));
  const sizes = (parts) => {
    const groups = parts.filter((p) => p.type === "integer").map((p) => [...p.value].length);
    return `${groups.at(-1)}${groups.length > 2 ? groups.at(-2) : groups.at(-1)}`;
  };
  const least = (fmt) => (fmt.formatToParts(1234).some((p) => p.type === "group") ? 1 : 2);
  const zero = f.format(0);
  const names = {};
  for (const currency of currencies)
    names[currency] = sign(new Intl.NumberFormat(id, { style: "currency", currency }).formatToParts(1), "currency");
  // Most currencies of a locale are written alike; the others are told one by one.
  const money = Object.fromEntries(
    currencies.map((currency) => {
      const fmt = new Intl.NumberFormat(id, { style: "currency", currency });
      const parts = fmt.formatToParts(-123456789.5);
      const plain = new Intl.NumberFormat(id, { style: "currency", currency, minimumFractionDigits: 2 });
      const p = sign(plain.formatToParts(1.5), "decimal");
      const all = { p, g: sign(parts, "group"), l: least(fmt), a: shape(fmt.formatToParts(1234.5)), b: shape(parts) };
      return [currency, { ...all, s: sizes(parts), m: sign(parts, "minusSign") }];
    }),
  );
  const alike = (c, currency) => {
    const bare = (s) => spacing(s.replaceAll(/(¤)\u00a0(?=#)|(#)\u00a0(?=¤)/g, "$1$2"), names[currency]);
    const same = c.a === money[currency].a && c.b === money[currency].b;
    const spaced = spacing(c.a, names[currency]) === money[currency].a && spacing(c.b, names[currency]) === money[currency].b;
    const other = bare(c.a) === money[currency].a && bare(c.b) === money[currency].b && c.a === bare(c.a);
    return (same || spaced || other) && c.p === money[currency].p && c.g === money[currency].g && c.l === money[currency].l;
  };
  const others = (c) => currencies.filter((currency) => !alike(c, currency));
  const c = ["USD", "EUR", "GBP", "CHF", "KRW", "TRY"]
    .map((currency) => money[currency])
    .sort((x, y) => others(x).length - others(y).length)[0];
  return {
    n: {
      p: sign(big, "decimal"),
      g: sign(big, "group"),
      s: sizes(big),
      l: least(f),
      m: before.map((p) => p.value).join(""),
      z: zero,
    },
    c,
    o: Object.fromEntries(others(c).map((currency) => [currency, money[currency]])),
    s: names,
  };
}

/** A space between the letters of a currency and digits, as Unicode TR 35 has it. */
function spacing(shape, symbol) {
  const kept = (sign) => !/[\p{S}\p{Z}]/u.test(sign ?? "");
  const signs = [...symbol];
  let out = shape;
  if (kept(signs.at(-1))) out = out.replace("¤#", "¤\u00a0#");
  if (kept(signs[0])) out = out.replace("#¤", "#\u00a0¤");
  return out;
}

function distances(id) {
  const f = new Intl.RelativeTimeFormat(id, { numeric: "auto" });
  const rules = new Intl.PluralRules(id);
  const near = {};
  const future = {};
  const past = {};
  for (let n = -3; n <= 3; n++) {
    const parts = f.formatToParts(n, "day");
    if (parts.every((p) => p.type === "literal")) near[n] = f.format(n, "day");
  }
  let kinds = "";
  for (let n = 0; n < 200; n++) {
    const kind = rules.select(n);
    kinds += kind[0] === "o" && kind === "one" ? "1" : kind[0];
    const pattern = (sign) =>
      f
        .formatToParts(sign * n, "day")
        .map((p) => (p.type === "literal" ? p.value : p.type === "integer" ? "{0}" : ""))
        .join("");
    const key = kinds.at(-1);
    if (!near[n]) future[key] ??= pattern(1);
    if (!near[-n]) past[key] ??= pattern(-1);
  }
  return { r: { n: near, f: future, p: past, k: kinds } };
}

function lists(id) {
  const f = new Intl.ListFormat(id, { type: "conjunction", style: "long" });
  const two = f.format(["\u0001", "\u0002"]);
  const s = f.format(["\u0001", "\u0002", "\u0003", "\u0004"]);
  const between = (a, b) => s.slice(s.indexOf(a) + 1, s.indexOf(b));
  const [start, middle, end] = [between("\u0001", "\u0002"), between("\u0002", "\u0003"), between("\u0003", "\u0004")];
  const behind = [two.slice(two.indexOf("\u0002") + 1), s.slice(s.indexOf("\u0004") + 1)];
  return { l: [two.slice(two.indexOf("\u0001") + 1, two.indexOf("\u0002")), start, middle, end, ...behind] };
}

function yesNo(id) {
  for (let at = id; at; at = at.includes("-") ? at.slice(0, at.lastIndexOf("-")) : "") {
    try {
      const { yesstr, nostr } = read(`cldr-misc-full/main/${at}/posix.json`).main[at].posix.messages;
      if (yesstr && nostr) return { y: [nostr.split(":")[0], yesstr.split(":")[0]] };
    } catch {
      // It says what its parent says.
    }
  }
  return { y: ["no", "yes"] };
}

const whole = Object.fromEntries(
  locales.map((id) => [id, { ...dates(id), ...numbers(id), ...distances(id), ...lists(id), ...yesNo(id) }]),
);
const parentOf = (id) => {
  for (let at = id; at.includes("-"); ) {
    at = at.slice(0, at.lastIndexOf("-"));
    if (whole[at]) return at;
  }
  return id === "en" ? "" : "en";
};

/** What differs of a locale from another; currencies one by one. */
function differing(mine, other) {
  const out = {};
  for (const [key, value] of Object.entries(mine)) {
    if (JSON.stringify(value) === JSON.stringify(other?.[key])) continue;
    if (key !== "s" || !other) {
      out[key] = value;
      continue;
    }
    out.s = Object.fromEntries(Object.entries(value).filter(([code, name]) => other.s[code] !== name));
  }
  return out;
}

const table = {};
for (const id of locales) table[id] = differing(whole[id], whole[parentOf(id)]);

// Regions that write a language in another script than its usual one: zh-TW is zh-Hant.
const regions = Object.keys(levels)
  .map((id) => /-([A-Z]{2})$/.exec(id)?.[1])
  .concat(["TW", "HK", "MO", "ME", "PK", "BA", "XK", "CN", "SG"])
  .filter((r, i, all) => r && all.indexOf(r) === i);
const aliases = {};
for (const language of new Set(locales.map((id) => id.split("-")[0]))) {
  const usual = new Intl.Locale(language).maximize().script;
  for (const region of regions) {
    const { script } = new Intl.Locale(`${language}-${region}`).maximize();
    if (script === usual || whole[`${language}-${region}`] || !whole[`${language}-${script}`]) continue;
    const exact = `${language}-${script}-${region}`;
    aliases[`${language}-${region}`] = whole[exact] ? exact : `${language}-${script}`;
  }
}

// Where a language is official (CLDR, supplemental/territoryInfo): only there a country has a variant of its own.
const info = read("cldr-core/supplemental/territoryInfo.json").supplemental.territoryInfo;
const homes = {};
for (const [territory, { languagePopulation = {} }] of Object.entries(info))
  for (const [name, { _officialStatus: status }] of Object.entries(languagePopulation)) {
    const language = name.split("_")[0];
    if (status && whole[language] && !homes[language]?.includes(territory)) (homes[language] ??= []).push(territory);
  }

const out = { homes, made: `ICU ${process.versions.icu}, CLDR ${process.versions.cldr}`, aliases, locales: table };
const target = new URL("../core/field/locales.json", import.meta.url);
writeFileSync(target, `${JSON.stringify(out).replaceAll(/("[A-Za-z]+(?:-\w+)*":\{"[dmwncosrly]")/g, "\n$1")}\n`);
console.log(`${locales.length} locales, ${readFileSync(target).length} bytes; without data here: ${left.join(" ") || "none"}`);
