import type { Locator, Page, Request } from "@playwright/test";

// Hands that do not know the ways: what they do at random, and what is watched meanwhile.

/** The same numbers from the same seed (mulberry32, public domain). */
export function numbers(seed: number) {
  let a = seed;
  return (n: number) => {
    a = (a + 0x6d2b79f5) | 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) % n;
  };
}

export const words = ["room", "İstanbul", "Straße", "שלום", "🥶", "a{b}", "e\u0301", "<b>", "door", "van", "ok"];

/** Keys that take nobody away from a text box. */
const keys = [
  "Home",
  "End",
  "ArrowLeft",
  "ArrowUp",
  "ArrowDown",
  "Control+Home",
  "Control+End",
  "Enter",
  "Backspace",
  "Shift+ArrowLeft",
];

/**
 * Types and presses at random in a text box; every word that is typed is one that only it typed. Without braces where
 * one of them asks for a merge field.
 */
export async function typeAtRandom(page: Page, box: Locator, seed: number, acts: number, braces = true) {
  const roll = numbers(seed);
  let n = 0;
  for (let i = 0; i < acts; i++) {
    const what = roll(10);
    if (what < 5) {
      const word = words[roll(words.length)] ?? "";
      await page.keyboard.type(` ${braces ? word : word.replace(/[{}]/g, "")}${seed}x${n++} `);
    } else if (what < 8) {
      await page.keyboard.press(keys[roll(keys.length)] ?? "End");
    } else if (what === 8) {
      await box.press("Control+z");
    } else {
      await box.press("Control+Shift+z");
    }
  }
}

/** What went wrong on a page that nobody was told of, and how many requests have no answer yet. */
export function watch(page: Page) {
  const open = new Set<Request>();
  const seen = {
    faults: [] as string[],
    get open() {
      return open.size;
    },
  };
  page.on("pageerror", (e) => seen.faults.push(String(e)));
  page.on("console", (m) => {
    if (m.type() === "error" && !/Failed to load resource/.test(m.text())) seen.faults.push(m.text());
  });
  page.on("request", (r) => open.add(r));
  page.on("requestfinished", (r) => open.delete(r));
  page.on("requestfailed", (r) => open.delete(r));
  return seen;
}

type Node = { text?: string; type?: string; attrs?: { label?: string }; content?: Node[] };

/** The words of a stored document, as they stand on the screen. */
export const textOf = (n: Node): string =>
  n.text ?? (n.type === "gap" ? (n.attrs?.label ?? "") : (n.content ?? []).map(textOf).join(""));
