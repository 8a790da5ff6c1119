import { Dialog, DialogPanel } from "@headlessui/react";
import { type FormEvent, useState } from "react";
import { api } from "../../api/client";
import { useWrite } from "../../api/useWrite";
import { Button } from "../../components/Button";
import { Input } from "../../components/Input";
import { ProblemText } from "../../components/ProblemText";

/** Over: the session ended while something is open; it stays as it is underneath. */
export function SignIn({ onDone, over = false }: { onDone: () => void; over?: boolean }) {
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");
  const {
    write,
    busy,
    failed: error,
  } = useWrite(() => api.POST("/api/session", { body: { email, password } }), onDone);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    void write();
  };
  const form = (
    <form onSubmit={submit} className="w-full max-w-sm border border-rule-strong bg-sheet px-8 py-9">
      <h1 className="font-serif text-2xl font-semibold text-main">Lucid Letter</h1>
      <p className="mt-1 text-ink-soft">
        {over ? "Your session ended. Sign in to continue where you left off." : "Sign in to your writing desk."}
      </p>
      <div className="mt-6 space-y-4">
        <Input
          label="Email"
          type="email"
          autoComplete="username"
          required
          autoFocus
          value={email}
          onChange={(e) => setEmail(e.target.value)}
        />
        <Input
          label="Password"
          type="password"
          autoComplete="current-password"
          required
          value={password}
          onChange={(e) => setPassword(e.target.value)}
        />
        <ProblemText error={error} />
        <Button look="main" type="submit" disabled={busy} className="w-full justify-center">
          Sign in
        </Button>
      </div>
    </form>
  );
  if (!over) return <main className="flex h-full items-center justify-center p-4">{form}</main>;
  return (
    // A dialog of its own kind: one that was open keeps what was typed in it, and nothing of it is reached meanwhile.
    <Dialog open onClose={() => {}} aria-label="Sign in again" className="relative z-50">
      <div className="fixed inset-0 flex items-center justify-center bg-ground/80 p-4">
        <DialogPanel className="w-full max-w-sm">{form}</DialogPanel>
      </div>
    </Dialog>
  );
}
