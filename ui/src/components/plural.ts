const rules = new Intl.PluralRules("en-GB");
/** Numbers with their thousands parted. */
export const figures = new Intl.NumberFormat("en-GB");

/** A number with its noun: "1 letter", "2 letters", "3 people". */
export function plural(n: number, one: string, many = `${one}s`): string {
  return `${figures.format(n)} ${rules.select(n) === "one" ? one : many}`;
}

/** How often: once, twice, 3 times. */
export function times(n: number): string {
  return n === 1 ? "once" : n === 2 ? "twice" : `${figures.format(n)} times`;
}

const lists = new Intl.ListFormat("en-GB", { type: "conjunction" });

/** Several words: "German", "German and French", "German, French and Spanish". */
export const listOf = (words: string[]): string => lists.format(words);
