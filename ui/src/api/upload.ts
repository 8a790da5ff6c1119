import { session } from "./client";

/** Posts a form with one file; the answer is as the generated client gives it. */
export async function upload<T>(path: string, file: File): Promise<{ data?: T; error?: unknown }> {
  const form = new FormData();
  form.append("file", file, file.name);
  const sentIn = session.now();
  const response = await fetch(path, { method: "POST", body: form });
  if (response.status === 401) session.refused(sentIn);
  const body = response.status === 204 ? undefined : await response.json().catch(() => ({}));
  return response.ok ? { data: body as T } : { error: body };
}
