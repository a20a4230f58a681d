/** Signing in: name and password, then the second factor where there is one; or a passkey, which is both. */
import { useQueryClient } from "@tanstack/react-query";
import { client } from "../../api/client.ts";
import { names } from "../../api/operate.ts";
import { Button } from "../../parts/button.tsx";
import { ENTRY_KEY, EntryProblem, fieldsOf, QUIET_LINK, TextField } from "../../parts/entry-fields.tsx";
import { canUsePasskeys } from "../../parts/passkey-support.ts";
import { SecondFactorForm } from "../../parts/second-factor-form.tsx";
import { signInWithPasskey, useSignIn } from "../../parts/use-sign-in.ts";
import { EntryPage } from "./entry.tsx";

export function SignInPage({ trouble }: { trouble: string | null }) {
  const queries = useQueryClient();
  const { problem, busy, second, attempt, back } = useSignIn(
    (session) => queries.setQueryData(names.session, session),
    trouble,
  );
  const told = <EntryProblem>{problem}</EntryProblem>;
  if (second)
    return (
      <EntryPage title="Second factor">
        <SecondFactorForm second={second} busy={busy} problem={told} onAttempt={attempt} onBack={back} />
        <p className="mt-8 text-note text-soft">
          Have you lost your second factor? An owner of the team can remove it. Then sign in with your password and add
          a new one.
        </p>
      </EntryPage>
    );
  return (
    <EntryPage title="Sign in">
      <form
        onSubmit={(event) => {
          const form = fieldsOf(event);
          void attempt(() => client.signIn({ name: form("name"), password: form("password") }));
        }}
        className="mt-5 flex flex-col gap-4"
      >
        <TextField label="Name" name="name" autoComplete="username" />
        <TextField label="Password" name="password" type="password" autoComplete="current-password" />
        {told}
        <Button type="submit" disabled={busy} className={ENTRY_KEY}>
          {busy ? "Signing in" : "Sign in"}
        </Button>
      </form>
      {canUsePasskeys() && (
        <p className="mt-5">
          <Button disabled={busy} onClick={() => void attempt(signInWithPasskey)} className={QUIET_LINK}>
            Sign in with a passkey
          </Button>
        </p>
      )}
      <p className="mt-8 text-note text-soft">
        No account yet? Ask an owner of the team. Is the installation new? Open the set-up link that the service printed
        at its first start.
      </p>
    </EntryPage>
  );
}
