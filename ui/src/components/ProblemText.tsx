import { wordsOf } from "../api/client";

export function ProblemText({ error }: { error: unknown }) {
  if (!error) return null;
  return (
    <p role="alert" className="border-l-3 border-stop bg-stop-soft px-3 py-2 text-stop">
      {wordsOf(error)}
    </p>
  );
}
