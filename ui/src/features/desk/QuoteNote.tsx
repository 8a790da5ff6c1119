import { useState } from "react";
import { Link } from "react-router";
import { Button } from "../../components/Button";
import type { Letter } from "./useDraft";

/** What the letter answers, quoted below it: shortened as one likes, or left out. */
export function QuoteNote({ letter, onKeep }: { letter: Letter; onKeep: (words: string) => void }) {
  const quote = letter.quote;
  const [words, setWords] = useState(quote?.words ?? "");
  const [before, setBefore] = useState(words);
  if (!quote) return null;
  const keep = (next: string) => {
    setWords(next);
    onKeep(next);
  };
  return (
    <section aria-label="Quoted below" className="border border-t-0 border-rule bg-sheet px-5 py-4 sm:px-12">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <p className="min-w-0 flex-1 text-sm text-ink-soft">
          {words.trim() ? "Quoted below: " : "You are not quoting "}
          <Link to={`/people/${letter.personId}?came=${letter.answers}`} className="hover:underline">
            {quote.who.replace(/:$/, "")}
          </Link>
          {!words.trim() && " wrote."}
        </p>
        {words.trim() ? (
          <Button
            look="quiet"
            className="px-1! text-sm"
            onClick={() => {
              setBefore(words);
              keep("");
            }}
          >
            Remove the quote
          </Button>
        ) : (
          <Button look="quiet" className="px-1! text-sm" onClick={() => keep(before)}>
            Quote it
          </Button>
        )}
      </div>
      {words.trim() !== "" && (
        <textarea
          aria-label="Quoted words"
          rows={Math.min(10, words.split("\n").length + Math.floor(words.length / 90))}
          value={words}
          onChange={(e) => setWords(e.target.value)}
          onBlur={() => words !== quote.words && onKeep(words)}
          className="mt-1 w-full resize-y border-l-2 border-rule-strong bg-transparent pl-3 font-serif text-ink-soft outline-none focus:border-main"
        />
      )}
    </section>
  );
}
