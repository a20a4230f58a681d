/** The second step of a sign-in: a passkey, a code of the authenticator app, or a recovery code. */
import type { SecondFactorView, SessionView } from "@bold-relay/api";
import { type PublicKeyCredentialRequestOptionsJSON, startAuthentication } from "@simplewebauthn/browser";
import { type ReactNode, useState } from "react";
import { client } from "../api/client.ts";
import { Button } from "./button.tsx";
import { ENTRY_KEY, fieldsOf, QUIET_LINK, TextField } from "./entry-fields.tsx";

interface SecondFactorFormProps {
  readonly second: SecondFactorView["secondFactor"];
  readonly busy: boolean;
  readonly problem: ReactNode;
  readonly onAttempt: (work: () => Promise<SessionView>) => Promise<void>;
  readonly onBack: () => void;
}

export function SecondFactorForm({ second, busy, problem, onAttempt, onBack }: SecondFactorFormProps) {
  const { ticket, app, passkey } = second;
  const [recovering, setRecovering] = useState(false);
  const withPasskey = async () => {
    const optionsJSON = passkey as PublicKeyCredentialRequestOptionsJSON;
    return client.signInSecond({ ticket, passkey: await startAuthentication({ optionsJSON }) });
  };
  return (
    <>
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
      {problem}
      {passkey === null && !app && (
        <p className="mt-5">Your passkeys belong to another address of this console. Sign in there.</p>
      )}
      <p className="mt-5 flex gap-5">
        {app && (
          <Button onClick={() => setRecovering(!recovering)} className={QUIET_LINK}>
            {recovering ? "Use the app" : "Use a recovery code"}
          </Button>
        )}
        <Button onClick={onBack} className={QUIET_LINK}>
          Back
        </Button>
      </p>
    </>
  );
}
