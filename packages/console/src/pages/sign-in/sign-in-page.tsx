/** Signing in: name and password, then the second factor where there is one; or a passkey, which is both. */
import type { SecondFactorView, SessionView } from "@bold-relay/api";
import { type PublicKeyCredentialRequestOptionsJSON, startAuthentication } from "@simplewebauthn/browser";
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client } from "../../api/client.ts";
import { names } from "../../api/operate.ts";
import { Button } from "../../parts/button.tsx";
import { canUsePasskeys } from "../../parts/passkey-support.ts";
import { ENTRY_KEY, EntryPage, EntryProblem, TextField } from "./entry.tsx";

export function SignInPage({ trouble }: { trouble: string | null }) {
  const queries = useQueryClient();
  const [problem, setProblem] = useState<string | null>(trouble);
  const [busy, setBusy] = useState(false);
  const [second, setSecond] = useState<SecondFactorView["secondFactor"] | null>(null);

  async function attempt(work: () => Promise<SessionView | SecondFactorView>): Promise<void> {
    setBusy(true);
    setProblem(null);
    try {
      const answer = await work();
      if ("secondFactor" in answer) setSecond(answer.secondFactor);
      else queries.setQueryData(names.session, answer);
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
    }
    setBusy(false);
  }

  if (second)
    return (
      <SecondFactor second={second} problem={problem} busy={busy} onAttempt={attempt} onBack={() => setSecond(null)} />
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
        <EntryProblem>{problem}</EntryProblem>
        <Button type="submit" disabled={busy} className={ENTRY_KEY}>
          {busy ? "Signing in" : "Sign in"}
        </Button>
      </form>
      {canUsePasskeys() && (
        <p className="mt-5">
          <Button
            disabled={busy}
            onClick={() => void attempt(signInWithPasskey)}
            className="text-act underline-offset-2 hover:underline"
          >
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

interface SecondFactorProps {
  readonly second: SecondFactorView["secondFactor"];
  readonly problem: string | null;
  readonly busy: boolean;
  readonly onAttempt: (work: () => Promise<SessionView>) => Promise<void>;
  readonly onBack: () => void;
}

function SecondFactor({ second: { ticket, app, passkey }, problem, busy, onAttempt, onBack }: SecondFactorProps) {
  const [recovering, setRecovering] = useState(false);
  const withPasskey = async () => {
    const optionsJSON = passkey as PublicKeyCredentialRequestOptionsJSON;
    return client.signInSecond({ ticket, passkey: await startAuthentication({ optionsJSON }) });
  };
  return (
    <EntryPage title="Second factor">
      {passkey !== null && (
        <Button disabled={busy} onClick={() => void onAttempt(withPasskey)} className={`${ENTRY_KEY} mt-5`}>
          Use passkey
        </Button>
      )}
      {app && (
        <form
          onSubmit={(event) => {
            const code = fieldsOf(event)("code");
            void onAttempt(() => client.signInSecond(recovering ? { ticket, recoveryCode: code } : { ticket, code }));
          }}
          className="mt-5 flex flex-col gap-4"
        >
          {recovering ? (
            <TextField key="recovery" label="Recovery code" name="code" autoComplete="off" />
          ) : (
            <TextField key="code" label="Code of your authenticator app" name="code" autoComplete="one-time-code" />
          )}
          <Button type="submit" disabled={busy} className={ENTRY_KEY}>
            Sign in
          </Button>
        </form>
      )}
      <EntryProblem>{problem}</EntryProblem>
      {passkey === null && !app && (
        <p className="mt-5">Your passkeys belong to another address of this console. Sign in there.</p>
      )}
      <p className="mt-5 flex gap-5">
        {app && (
          <Button onClick={() => setRecovering(!recovering)} className="text-act underline-offset-2 hover:underline">
            {recovering ? "Use the app" : "Use a recovery code"}
          </Button>
        )}
        <Button onClick={onBack} className="text-act underline-offset-2 hover:underline">
          Back
        </Button>
      </p>
      <p className="mt-8 text-note text-soft">
        Have you lost your second factor? An owner of the team can remove it. Then sign in with your password and add a
        new one.
      </p>
    </EntryPage>
  );
}

async function signInWithPasskey(): Promise<SessionView> {
  const { ticket, options } = await client.passkeySignInOptions();
  const optionsJSON = options as PublicKeyCredentialRequestOptionsJSON;
  return client.signInWithPasskey({ ticket, passkey: await startAuthentication({ optionsJSON }) });
}

function fieldsOf(event: FormEvent<HTMLFormElement>): (name: string) => string {
  event.preventDefault();
  const form = new FormData(event.currentTarget);
  return (name) => String(form.get(name));
}
