import { upload } from "../api/upload";

/** Where screens fetch a picture that travels with letters. */
export function pictureSource(src: string): string {
  return src.startsWith("cid:") ? `/api/files/${src.slice(4)}` : src;
}

/** Stores a picture for letters; the server makes it fit. */
export function uploadPicture(file: File) {
  return upload<string>("/api/pictures", file);
}
