import { Link } from "react-router";
import { $api } from "../../api/client";

/** Says at the desk that a draft is a step of a plan, and why it waits for its writer. */
export function OfPlan({ run, letter }: { run: number; letter: number }) {
  const sheet = $api.useQuery("get", "/api/runs/{id}", { params: { path: { id: run } } }, { retry: false }).data?.run;
  if (!sheet) return null;
  const waits = sheet.state === "waiting" && sheet.letterId === letter;
  return (
    <p className="mb-3 text-sm text-ink-soft">
      A letter of the plan{" "}
      <Link to={`/runs/${run}`} className="text-main underline">
        {sheet.plan}
      </Link>
      {waits && (
        <>
          , which waits for you: <span className="text-advice">{sheet.reason}</span>. It goes on when this letter is
          sent
        </>
      )}
      .
    </p>
  );
}
