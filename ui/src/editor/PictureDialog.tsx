import { type FormEvent, useState } from "react";
import { noAnswer, wordsOf } from "../api/client";
import { Button } from "../components/Button";
import { Input } from "../components/Input";
import { Modal } from "../components/Modal";
import { uploadPicture } from "./pictures";

type Props = { first?: File | undefined; onPut: (attrs: { src: string; alt: string }) => void; onClose: () => void };

/** Asks for a picture, from a file or by its address, and for the words in its place. */
export function PictureDialog({ first, onPut, onClose }: Props) {
  const [file, setFile] = useState<File | undefined>(first);
  const [address, setAddress] = useState("");
  const [alt, setAlt] = useState("");
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);
  const put = async (event: FormEvent) => {
    event.preventDefault();
    if (!file) return onPut({ src: address.trim(), alt: alt.trim() });
    setBusy(true);
    const { data, error } = await uploadPicture(file).catch(noAnswer);
    setBusy(false);
    if (!data) return setProblem(wordsOf(error));
    onPut({ src: data, alt: alt.trim() });
  };
  return (
    <Modal title="Insert a picture" onClose={onClose}>
      <form onSubmit={put} className="flex flex-col gap-4">
        {problem && (
          <p role="alert" className="border-l-3 border-stop bg-stop-soft px-3 py-2 text-stop">
            {problem}
          </p>
        )}
        {first ? (
          <p className="text-sm text-ink-soft">{first.name || "The picture you pasted"}</p>
        ) : (
          <>
            <label className="block">
              <span className="block text-sm text-ink-soft">
                A file: PNG, JPEG, GIF or WebP; it is made at most 1200 pixels wide
              </span>
              <input
                type="file"
                accept="image/png,image/jpeg,image/gif,image/webp"
                onChange={(e) => setFile(e.target.files?.[0])}
                className="mt-1"
              />
            </label>
            {!file && (
              <Input
                label="Or its web address"
                value={address}
                placeholder="https://"
                onChange={(e) => setAddress(e.target.value)}
              />
            )}
          </>
        )}
        <Input
          label="Alternative text"
          hint="Shown to readers whose email program blocks pictures."
          value={alt}
          onChange={(e) => setAlt(e.target.value)}
        />
        <div>
          <Button look="main" type="submit" disabled={busy || (!file && !/^https?:\/\/./.test(address.trim()))}>
            {busy ? "Saving …" : "Insert"}
          </Button>
        </div>
      </form>
    </Modal>
  );
}
