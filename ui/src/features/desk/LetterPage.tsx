import { useMemo, useState } from "react";
import { flushSync } from "react-dom";
import { Navigate, useLocation, useParams } from "react-router";
import { toast } from "sonner";
import { $api, api, noAnswer, statusOf, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { Desk } from "./Desk";
import { onItsOwn, unsavedOf } from "./unsaved";
import type { Letter } from "./useDraft";
import type { Carets } from "./useEditors";
import { homeOf } from "./words";

/** A draft lies on the desk; a letter that went is filed with its person. */
export function LetterPage() {
  // A letter that was started over, whose editors are made anew.
  const [over, setOver] = useState<{ n: number; letter: Letter; carets: Carets } | null>(null);
  const id = Number(useParams().id);
  const came = useLocation().state as { carets?: Carets } | null; // from a letter whose words go on in this one
  const [restored, setRestored] = useState(0);
  const letter = $api.useQuery(
    "get",
    "/api/letters/{id}",
    { params: { path: { id } } },
    { staleTime: 0, gcTime: 0, refetchOnWindowFocus: false, retry: (n, error) => n < 3 && statusOf(error) >= 500 },
  );
  // What a list showed of it before may be older than what is there now.
  const stored = letter.isFetchedAfterMount ? letter.data : undefined;
  const unsaved = useMemo(() => {
    const words = stored?.state === "draft" ? onItsOwn(unsavedOf(id, stored.personId), stored) : null;
    const same = words && sameWords(words.subject, stored?.subjectDoc) && sameWords(words.body, stored?.body);
    return same ? null : words;
  }, [id, stored]);
  if (letter.isPending || (!letter.isFetchedAfterMount && restored !== id)) return <Loading />;
  if (letter.error) {
    const restore = async () => {
      const { error } = await api.POST("/api/letters/{id}/restore", { params: { path: { id } } }).catch(noAnswer);
      if (error) return void toast.error(wordsOf(error));
      setRestored(id);
      await letter.refetch();
    };
    return (
      <div className="p-6">
        <ProblemText error={letter.error} />
        {statusOf(letter.error) === 410 && (
          <Button look="main" className="mt-4" onClick={restore}>
            Restore the letter
          </Button>
        )}
      </div>
    );
  }
  if (letter.data.state !== "draft") return <Navigate replace to={`${homeOf(letter.data)}?letter=${id}`} />;
  const again = over?.letter.id === id ? over : null;
  return (
    <Desk
      key={`${id} ${over?.n ?? 0}`}
      first={
        again?.letter ?? (unsaved ? { ...letter.data, subjectDoc: unsaved.subject, body: unsaved.body } : letter.data)
      }
      unsaved={again ? null : unsaved}
      carets={again?.carets ?? came?.carets ?? {}}
      onStartOver={(l, carets) => flushSync(() => setOver((o) => ({ n: (o?.n ?? 0) + 1, letter: l, carets })))}
    />
  );
}

function sameWords(a: object, b: object | undefined): boolean {
  return JSON.stringify(a) === JSON.stringify(b);
}
