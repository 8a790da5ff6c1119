import { useState } from "react";
import { flushSync } from "react-dom";
import { Navigate, useParams } from "react-router";
import { $api } from "../../api/client";
import { Loading } from "../../components/Loading";
import { ProblemText } from "../../components/ProblemText";
import { type Carets, Desk } from "./Desk";
import type { Letter } from "./useDraft";
import { homeOf } from "./words";

/** A draft lies on the desk; a letter that went is filed with its person. */
export function LetterPage() {
  // A letter that was started over, whose editors are made anew.
  const [over, setOver] = useState<{ n: number; letter: Letter; carets: Carets } | null>(null);
  const id = Number(useParams().id);
  const letter = $api.useQuery(
    "get",
    "/api/letters/{id}",
    { params: { path: { id } } },
    { staleTime: 0, gcTime: 0, refetchOnWindowFocus: false },
  );
  if (letter.isPending || !letter.isFetchedAfterMount) return <Loading />;
  if (letter.error)
    return (
      <div className="p-6">
        <ProblemText error={letter.error} />
      </div>
    );
  if (letter.data.state !== "draft") return <Navigate replace to={`${homeOf(letter.data)}?letter=${id}`} />;
  const again = over?.letter.id === id ? over : null;
  return (
    <Desk
      key={`${id} ${over?.n ?? 0}`}
      first={again?.letter ?? letter.data}
      carets={again?.carets ?? {}}
      onStartOver={(l, carets) => flushSync(() => setOver((o) => ({ n: (o?.n ?? 0) + 1, letter: l, carets })))}
    />
  );
}
