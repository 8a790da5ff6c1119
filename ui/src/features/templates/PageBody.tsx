import { useEffect, useRef, useState } from "react";
import { toast } from "sonner";
import { api, noAnswer, type Schemas, wordsOf } from "../../api/client";
import { PartsFrame } from "../../components/PartsFrame";

type Page = Schemas["PageOut"];
type Props = {
  body: string;
  /** The page as the server gave it last, when that is the body. */
  known: Page | undefined;
  readOnly: boolean;
  chosen: number | null;
  onChoose: (part: number | null, page: Page) => void;
  onPage: (page: Page) => void;
  frame: React.RefObject<HTMLIFrameElement | null>;
};

/** A page that was brought in, as it will look. Its words, links and pictures are chosen in it and changed in the margin. */
export function PageBody({ body, known, readOnly, chosen, onChoose, onPage, frame }: Props) {
  const [page, setPage] = useState<Page>();
  const latest = useRef({ known, onChoose, onPage });
  latest.current = { known, onChoose, onPage };

  useEffect(() => {
    if (body === latest.current.known?.body) return; // changed part by part, and shown already
    let current = true;
    (async () => {
      const { data, error } = await api.POST("/api/templates/page", { body: { body } }).catch(noAnswer);
      if (!current) return;
      if (!data) return void toast.error(wordsOf(error));
      setPage(data);
      latest.current.onPage(data);
    })();
    return () => {
      current = false;
    };
  }, [body]);

  if (!page) return null;
  return (
    <PartsFrame
      shown={page.shown}
      readOnly={readOnly}
      chosen={chosen}
      frame={frame}
      onChoose={(part) => {
        const { known: now, onChoose: tell } = latest.current;
        if (now) tell(part, now);
      }}
    />
  );
}
