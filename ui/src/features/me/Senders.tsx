import { type FormEvent, useState } from "react";
import { toast } from "sonner";
import { $api, api, noAnswer, wordsOf } from "../../api/client";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";

/** Who may write from which addresses, for administrators. */
export function Senders() {
  const senders = $api.useQuery("get", "/api/senders");
  const [problem, setProblem] = useState("");
  const done = async (error: unknown) => {
    setProblem(error ? wordsOf(error) : "");
    if (!error) await senders.refetch();
  };
  const allow = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const { error } = await api
      .POST("/api/senders/{id}/from", {
        params: { path: { id: Number(form.get("user")) } },
        body: { name: String(form.get("name")), email: String(form.get("email")) },
      })
      .catch(noAnswer);
    await done(error);
  };
  const forbid = async (id: number, email: string) => {
    const { error } = await api
      .DELETE("/api/senders/{id}/from", { params: { path: { id }, query: { email } } })
      .catch(noAnswer);
    await done(error);
    if (error) return;
    const back = async () => {
      const params = { path: { id }, query: { email } };
      await done((await api.POST("/api/senders/{id}/from/put-back", { params }).catch(noAnswer)).error);
    };
    toast.success(`${email} was taken away.`, { action: { label: "Undo", onClick: () => void back() } });
  };
  return (
    <section aria-label="From addresses" className="border border-rule bg-sheet px-5 py-4">
      <h2 className="font-semibold">From addresses</h2>
      <p className="mb-3 text-sm text-ink-soft">Everybody can send from their own address. Add others here.</p>
      <ul>
        {senders.data?.map((s) => (
          <li key={s.id} className="flex flex-wrap items-baseline gap-x-4 border-b border-rule py-1.5">
            <span className="w-36 font-medium">{s.name}</span>
            <span className="min-w-0 flex-1 text-sm">
              {s.froms.map((f) => (
                <span key={f.email} className="mr-3 inline-block">
                  {f.own ? f.email : `${f.name} <${f.email}>`}
                  {!f.own && (
                    <Button look="quiet" className="px-1! text-sm" onClick={() => forbid(s.id, f.email)}>
                      Take away<span className="sr-only"> {f.email}</span>
                    </Button>
                  )}
                </span>
              ))}
            </span>
          </li>
        ))}
      </ul>
      <form onSubmit={allow} className="mt-4 grid items-end gap-4 sm:grid-cols-[10rem_1fr_1fr_auto]">
        <label>
          <span className="block text-sm text-ink-soft">Who</span>
          <select name="user" className="min-h-9 w-full border-b border-rule-strong bg-sheet">
            {senders.data?.map((s) => (
              <option key={s.id} value={s.id}>
                {s.name}
              </option>
            ))}
          </select>
        </label>
        <Input label="From name" name="name" required />
        <Input label="Address" name="email" type="email" required />
        <Button type="submit">Add</Button>
      </form>
      {problem && (
        <p role="alert" className="mt-2 text-stop">
          {problem}
        </p>
      )}
    </section>
  );
}
