import { useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { LetterWords } from "../../components/LetterWords";
import { Loading } from "../../components/Loading";
import { PageFrame } from "../../components/PageFrame";
import { ProblemText } from "../../components/ProblemText";
import { listOf } from "../../components/plural";
import { useChange } from "../library/useLibrary";
import { fitsWords } from "../library/words";

/** The ready-written templates by moment of the sale, seen with one's own people before they are copied. */
export function ShelfPage() {
  const [params, setParams] = useSearchParams();
  const go = useNavigate();
  const change = useChange();
  const shelf = $api.useQuery("get", "/api/shelf", {}, { staleTime: Number.POSITIVE_INFINITY });
  const list = shelf.data ?? [];
  const letter = useRef<HTMLDivElement>(null);
  const key = params.get("item") ?? list[0]?.key ?? "";
  const item = list.find((i) => i.key === key);
  const moments = [...new Set(list.map((i) => i.moment))];
  const copy = async (keys: string[]) => {
    const answer = await api.POST("/api/shelf/copy", { body: { keys } }).catch(noAnswer);
    if (!answer.data) return void toast.error(wordsOf(answer.error));
    await change(Promise.resolve({}));
    if (answer.data.length === 1) {
      toast.success("Copied to your templates as a draft.");
      go(`/templates/${answer.data[0]}`);
    } else toast.success(`${answer.data.length} templates were copied as drafts.`);
  };
  return (
    <div className="px-3 pt-4 pb-8 sm:px-6">
      <p className="text-sm">
        <Link to="/templates" className="text-main underline">
          Templates
        </Link>
      </p>
      <h1 className="font-serif text-2xl font-semibold">Starter shelf</h1>
      <p className="mb-4 text-ink-soft">
        Ready-written letters to copy. Your copy is a draft, so you can make it sound like you.
      </p>
      <ProblemText error={shelf.error} />
      {shelf.isPending && <Loading />}
      <div className="grid gap-x-8 gap-y-6 lg:grid-cols-[20rem_minmax(0,1fr)]">
        <nav aria-label="Starter shelf">
          {moments.map((moment) => (
            <section key={moment} aria-label={moment} className="mb-4">
              <div className="flex items-baseline border-b border-rule pb-0.5 pl-2">
                <h2 className="text-sm font-semibold text-ink-soft">{moment}</h2>
                <button
                  type="button"
                  className="ml-auto px-1 text-sm text-main hover:underline"
                  onClick={() => copy(list.filter((i) => i.moment === moment).map((i) => i.key))}
                >
                  Copy all<span className="sr-only"> of {moment}</span>
                </button>
              </div>
              <ul>
                {list
                  .filter((i) => i.moment === moment)
                  .map((i) => (
                    <li key={i.key}>
                      <button
                        type="button"
                        aria-current={i.key === key ? "true" : undefined}
                        onClick={() => {
                          setParams({ item: i.key }, { replace: true });
                          // On a narrow screen the letter lies below the list.
                          requestAnimationFrame(() => letter.current?.scrollIntoView({ block: "nearest" }));
                        }}
                        className={`block w-full rounded-sm px-2 py-1 text-left ${i.key === key ? "bg-main-soft" : "hover:bg-main-soft"}`}
                      >
                        <span className="block font-serif font-medium">{i.name}</span>
                        <span className="block truncate text-sm text-ink-soft">{i.whenToUse}</span>
                      </button>
                    </li>
                  ))}
              </ul>
            </section>
          ))}
        </nav>
        <div ref={letter} className="min-h-[60vh] scroll-mt-3">
          {item && (
            <ShelfItem
              key={item.key}
              item={item.key}
              name={item.name}
              fits={item.fits}
              languages={item.languages}
              onCopy={() => copy([item.key])}
            />
          )}
        </div>
      </div>
    </div>
  );
}

type Props = { item: string; name: string; fits: string[]; languages: string[]; onCopy: () => void };

function ShelfItem({ item, name, fits, languages, onCopy }: Props) {
  const [index, setIndex] = useState(0);
  const trial = $api.useQuery("get", "/api/shelf/{key}", { params: { path: { key: item }, query: { index } } });
  const t = trial.data;
  return (
    <section aria-label={name} className="lg:sticky lg:top-3">
      <div className="mb-3 flex flex-wrap items-center gap-x-4 gap-y-2">
        <Button look="main" onClick={onCopy}>
          Copy to my templates
        </Button>
        <p className="text-sm text-ink-soft">
          {t ? (
            <>
              As <b className="font-serif text-ink">{t.name}</b>
              {t.standIn ? ", a made-up person," : ""} would get it · {fitsWords(fits)}
              {languages.length > 0 && <> · also in {listOf(languages)}</>}
            </>
          ) : (
            ""
          )}
        </p>
        {t && t.total > 1 && (
          <button
            type="button"
            className="text-sm text-main hover:underline"
            onClick={() => setIndex((index + 1) % t.total)}
          >
            Next person
          </button>
        )}
      </div>
      <ProblemText error={trial.error} />
      {t && (
        <div className={`border border-rule bg-sheet px-5 py-6 sm:px-12 sm:py-9 ${t.html ? "paper" : ""}`}>
          <LetterWords doc={t.subject} className="mb-5 border-b border-rule pb-2 text-[1.35rem]! font-semibold" />
          {t.html ? <PageFrame outside html={t.html} title="The letter" /> : <LetterWords doc={t.body} />}
        </div>
      )}
    </section>
  );
}
