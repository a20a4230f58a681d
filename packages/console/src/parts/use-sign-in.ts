/** The steps of a sign-in, whichever page or dialog draws them. */
import type { SecondFactorView, SessionView } from "@bold-relay/api";
import { type PublicKeyCredentialRequestOptionsJSON, startAuthentication } from "@simplewebauthn/browser";
import { useState } from "react";
import { client } from "../api/client.ts";

export interface SignInSteps {
  readonly problem: string | null;
  readonly busy: boolean;
  /** What is asked for next; null: name and password. */
  readonly second: SecondFactorView["secondFactor"] | null;
  attempt(work: () => Promise<SessionView | SecondFactorView>): Promise<void>;
  back(): void;
}

/** @param trouble shown at first */
export function useSignIn(onSignedIn: (session: SessionView) => void, trouble: string | null = null): SignInSteps {
  const [problem, setProblem] = useState<string | null>(trouble);
  const [busy, setBusy] = useState(false);
  const [second, setSecond] = useState<SignInSteps["second"]>(null);
  return {
    problem,
    busy,
    second,
    async attempt(work) {
      setBusy(true);
      setProblem(null);
      try {
        const answer = await work();
        if ("secondFactor" in answer) setSecond(answer.secondFactor);
        else onSignedIn(answer);
      } catch (error) {
        setProblem(error instanceof Error ? error.message : String(error));
      }
      setBusy(false);
    },
    back: () => setSecond(null),
  };
}

export async function signInWithPasskey(): Promise<SessionView> {
  const { ticket, options } = await client.passkeySignInOptions();
  const optionsJSON = options as PublicKeyCredentialRequestOptionsJSON;
  return client.signInWithPasskey({ ticket, passkey: await startAuthentication({ optionsJSON }) });
}
