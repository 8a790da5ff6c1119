import { useEffect, useState } from "react";
import { $api } from "../../api/client";
import { Button } from "../../components/Button";
import { Loading } from "../../components/Loading";
import { Modal } from "../../components/Modal";
import { Problem } from "../../components/Problem";
import { ProblemText } from "../../components/ProblemText";
import { Tabs } from "../../components/Tabs";
import { MailSheet } from "../letters/MailSheet";
import type { Letter } from "./useDraft";
import { missingWords, sendTime, toWhom, type When, whenWords } from "./words";

type View = "desktop" | "phone" | "dark" | "text" | "headers";

type Props = {
  letter: Letter;
  when: When;
  /** Why it did not go. */
  problem: string;
  /** The sum of what is shown; "" while it is not known. */
  onShown: (sum: string) => void;
  onSend: () => void;
  onClose: () => void;
};

/** What the recipient will get, read back from the composed bytes. */
export function Proof({ letter, when, problem, onShown, onSend, onClose }: Props) {
  const [view, setView] = useState<View>("desktop");
  const proof = $api.useQuery(
    "get",
    "/api/letters/{id}/proof",
    { params: { path: { id: letter.id }, query: sendTime(when) } },
    { staleTime: 0, gcTime: 0 },
  );
  const sum = proof.data?.sum ?? "";
  useEffect(() => {
    onShown(sum);
    return () => onShown("");
  }, [sum, onShown]);
  const stopped = letter.stops.length > 0;
  const foot = (
    <>
      <span className="text-sm text-ink-soft">{proof.data ? `${(proof.data.size / 1024).toFixed(1)} KB` : ""}</span>
      <Button className="ml-auto" onClick={onClose}>
        Back to the letter
      </Button>
      {!letter.roundId && (
        <Button look="main" disabled={stopped} onClick={onSend}>
          {stopped
            ? missingWords(letter)
            : ["Send to ".concat(toWhom(letter)), whenWords(when, letter)].filter(Boolean).join(", ")}
        </Button>
      )}
    </>
  );
  return (
    <Modal title={`Proof for ${letter.person}`} onClose={onClose} wide foot={foot}>
      <Problem>{problem}</Problem>
      <Tabs
        label="Proof on"
        choices={[
          ["desktop", "Desktop"],
          ["phone", "Phone"],
          ["dark", "Dark"],
          ["text", "Text"],
          ["headers", "Headers"],
        ]}
        value={view}
        onChange={setView}
      />
      <div className="mt-4 bg-ground p-3 sm:p-6">
        {view === "dark" && proof.data?.mail.html && (
          <p className="mb-3 text-sm text-ink-soft">
            Shown as in programs that keep a page’s own colours. Some darken light pages by themselves, each in its way.
          </p>
        )}
        <ProblemText error={proof.error} />
        {proof.isPending && <Loading />}
        {proof.data &&
          (view === "headers" ? (
            <dl className="text-sm break-all">
              {proof.data.mail.headers.map((h) => (
                <div key={h.name} className="py-0.5">
                  <dt className="inline font-semibold">{h.name}: </dt>
                  <dd className="inline">{h.value}</dd>
                </div>
              ))}
            </dl>
          ) : (
            <MailSheet
              outside
              mail={proof.data.mail}
              narrow={view === "phone"}
              plain={view === "text"}
              dark={view === "dark"}
            />
          ))}
      </div>
    </Modal>
  );
}
