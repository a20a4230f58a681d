/** The only page without a session. */
import { Button, Field, Input, Label } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, names } from "../../api/queries.ts";
import { ProductSign } from "../../parts/product-sign.tsx";

export function SignInPage({ trouble }: { trouble: string | null }) {
  const queries = useQueryClient();
  const [problem, setProblem] = useState<string | null>(trouble);
  const [busy, setBusy] = useState(false);

  async function signIn(event: FormEvent<HTMLFormElement>): Promise<void> {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    setBusy(true);
    setProblem(null);
    try {
      const session = await client.signIn({ name: String(form.get("name")), password: String(form.get("password")) });
      queries.setQueryData(names.session, session);
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
      setBusy(false);
    }
  }

  return (
    <main className="mx-auto flex min-h-dvh max-w-[330px] flex-col justify-center px-4 pb-[12vh]">
      <ProductSign />
      <h1 className="mt-8 border-ink border-b pb-2 text-page">Sign in</h1>
      <form onSubmit={(event) => void signIn(event)} className="mt-5 flex flex-col gap-4">
        <TextField label="Name" name="name" autoComplete="username" />
        <TextField label="Password" name="password" type="password" autoComplete="current-password" />
        {problem && (
          <p role="alert" className="border-wrong border-l-[3px] bg-wrong-wash px-3 py-2">
            {problem}
          </p>
        )}
        <Button
          type="submit"
          disabled={busy}
          className="h-9 self-start rounded-key bg-act px-4 font-semibold text-letters disabled:opacity-60 data-hover:underline"
        >
          {busy ? "Signing in" : "Sign in"}
        </Button>
      </form>
      <p className="mt-8 text-note text-soft">
        Nobody can sign in yet? Whoever runs the service makes the owner with its set-up program.
      </p>
    </main>
  );
}

function TextField({ label, ...input }: { label: string; name: string; type?: string; autoComplete: string }) {
  return (
    <Field className="flex flex-col gap-1">
      <Label className="font-medium font-plate">{label}</Label>
      <Input required maxLength={200} {...input} className="h-9 rounded-key border border-soft bg-sheet px-2.5" />
    </Field>
  );
}
