import { Paperclip } from "lucide-react";
import type { Schemas } from "../../api/client";
import { PageFrame } from "../../components/PageFrame";
import { momentOf } from "../../components/time";

type Props = {
  mail: Schemas["ReadMail"];
  narrow?: boolean;
  plain?: boolean;
  dark?: boolean;
  /** Pictures from elsewhere are fetched: of a letter of ours. */
  outside?: boolean;
  /** Where its files are, by their place. */
  files?: string;
};

/** A letter as its recipient sees it; plain shows the text that comes beside a page. */
export function MailSheet({ mail, narrow = false, plain = false, dark = false, outside = false, files }: Props) {
  const copies = mail.headers.find((h) => h.name.toLowerCase() === "cc")?.value;
  const page = mail.html !== "" && !plain;
  return (
    <div
      data-theme={dark ? "dark" : undefined}
      className={`border border-rule bg-sheet text-ink ${narrow ? "mx-auto max-w-[390px]" : ""}`}
    >
      <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-0.5 border-b border-rule px-5 py-3 text-sm sm:px-8">
        <dt className="text-ink-soft">From</dt>
        <dd className="break-words">{mail.from}</dd>
        <dt className="text-ink-soft">To</dt>
        <dd className="break-words">{mail.to}</dd>
        {copies && (
          <>
            <dt className="text-ink-soft">Cc</dt>
            <dd className="break-words">{copies}</dd>
          </>
        )}
        <dt className="text-ink-soft">Date</dt>
        <dd>{mail.date.startsWith("0001") ? "not readable" : momentOf(mail.date)}</dd>
      </dl>
      <div className="px-5 py-5 sm:px-8 sm:py-7">
        <h2 className="mb-4 font-serif text-xl font-semibold break-words">{mail.subject}</h2>
        {page ? (
          <PageFrame html={mail.html} title="The letter" dark={dark} outside={outside} />
        ) : (
          <div className="letter-text">{mail.text}</div>
        )}
        {mail.files.length > 0 && (
          <ul aria-label="Attachments" className="mt-5 border-t border-rule pt-3 text-sm">
            {mail.files.map((f, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: the files of a letter stay in their places
              <li key={i} className="flex items-center gap-2">
                <Paperclip size={14} aria-hidden />
                {files ? (
                  <a href={`${files}/${i}`} className="text-main underline">
                    {f.name || "file"}
                  </a>
                ) : (
                  f.name
                )}
                <span className="text-ink-soft">{Math.max(1, Math.round(f.size / 1024))} KB</span>
              </li>
            ))}
          </ul>
        )}
      </div>
    </div>
  );
}
