import { figures, plural } from "../../components/plural";
import type { Report } from "./useImport";

/** How far a long import is, or its taking back. */
export function Progress({ report, words }: { report: Report; words: string }) {
  const share = report.toWrite ? Math.round((report.written / report.toWrite) * 100) : 0;
  return (
    <div role="status">
      <progress aria-label="Progress of the import" className="h-2 w-full accent-main" max={100} value={share} />
      <p>
        {figures.format(report.written)} of {plural(report.toWrite, "row")} done. {words}
      </p>
    </div>
  );
}
