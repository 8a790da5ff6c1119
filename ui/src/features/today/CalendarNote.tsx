import { useState } from "react";
import { toast } from "sonner";
import { api, noAnswer, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";

/** The tasks for a calendar program: a private address to follow, and a file. */
export function CalendarNote() {
  const [url, setUrl] = useState("");
  const ask = async (renew: boolean) => {
    const { data, error } = await api.POST("/api/calendar", { params: { query: { renew } } }).catch(noAnswer);
    if (data) setUrl(data.url);
    else toast.error(wordsOf(error));
  };
  if (!url)
    return (
      <Button look="quiet" onClick={() => ask(false)}>
        Add to my calendar
      </Button>
    );
  return (
    <section aria-label="Add to my calendar" className="mb-6 border border-rule bg-sheet px-5 py-3 text-sm">
      <p>
        Add this address to your calendar program to see your tasks and scheduled letters. Anyone with the address can
        read them.
      </p>
      <input
        readOnly
        aria-label="Private address"
        value={url}
        onFocus={(e) => e.target.select()}
        className="my-2 w-full border-b border-rule-strong bg-transparent py-1 font-mono outline-none focus:border-main"
      />
      <p className="flex flex-wrap gap-x-5">
        <a className="text-main underline" href={new URL(url).pathname} download="tasks.ics">
          Save as a file
        </a>
        <button type="button" className="text-main underline" onClick={() => ask(true)}>
          Replace this address
        </button>
      </p>
    </section>
  );
}
