import { ChevronRight } from "lucide-react";
import { useState } from "react";
import { $api } from "../../api/client";
import { LetterWords } from "../../components/LetterWords";
import { PageFrame } from "../../components/PageFrame";
import { ProblemText } from "../../components/ProblemText";
import { typed, wordingOf } from "./wording";

/** A template as a real person would get it. */
export function Preview({ id }: { id: number }) {
  const [index, setIndex] = useState(0);
  const template = $api.useQuery("get", "/api/templates/{id}", { params: { path: { id } } });
  const wording = template.data && typed(wordingOf(template.data));
  const trial = $api.useQuery(
    "post",
    "/api/templates/preview",
    { body: { subject: "", body: "", ...wording, index } },
    { enabled: !!wording },
  );
  const t = trial.data;
  return (
    <section aria-label="Preview" className="border border-rule bg-sheet">
      <div className="flex items-center gap-2 border-b border-rule px-4 py-1.5 text-sm">
        <p className="min-w-0 flex-1 truncate text-ink-soft">
          {t ? (
            <>
              As <b className="font-serif text-ink">{t.name}</b> would get it
            </>
          ) : (
            "Preview"
          )}
        </p>
        {t && t.total > 1 && (
          <button
            type="button"
            onClick={() => setIndex((index + 1) % t.total)}
            className="flex items-center text-main hover:underline"
          >
            Next person <ChevronRight size={14} aria-hidden />
          </button>
        )}
      </div>
      <div className={`px-5 py-4 ${t?.html ? "paper bg-sheet" : ""}`}>
        <ProblemText error={template.error ?? trial.error} />
        {t && (
          <>
            {t.reason && <p className="mb-3 text-sm text-stop">For this person it cannot be used: it {t.reason}.</p>}
            <LetterWords doc={t.subject} className="mb-3 border-b border-rule pb-2 text-[1.05rem]! font-semibold" />
            {t.html ? (
              <PageFrame outside html={t.html} title="The letter" />
            ) : (
              <LetterWords doc={t.body} className="text-[0.98rem]!" />
            )}
          </>
        )}
      </div>
    </section>
  );
}
