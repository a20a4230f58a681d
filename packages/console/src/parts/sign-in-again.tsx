/** Asks whoever is signed in for their password, and second factor, before what creates people, roles, keys or rules. */
import type { SessionView } from "@bold-relay/api";
import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { client } from "../api/client.ts";
import { names } from "../api/operate.ts";
import { endSignInAgain, useIsAsked } from "../api/sign-in-again.ts";
import { Button } from "./button.tsx";
import { ENTRY_KEY, EntryProblem, fieldsOf, QUIET_LINK, TextField } from "./entry-fields.tsx";
import { canUsePasskeys } from "./passkey-support.ts";
import { SecondFactorForm } from "./second-factor-form.tsx";
import { signInWithPasskey, useSignIn } from "./use-sign-in.ts";

export function SignInAgain({ member }: { member: SessionView }) {
  const { name } = member;
  const cancel = () => endSignInAgain("cancelled");
  return (
    <Dialog open={useIsAsked()} onClose={cancel} className="relative z-20">
      <div className="fixed inset-0 flex items-center justify-center bg-plate/40 p-4">
        <DialogPanel className="w-full max-w-[420px] border border-rule bg-sheet p-5">
          <DialogTitle className="text-title">Sign in again, {name}</DialogTitle>
          <Steps member={member} onCancel={cancel} />
        </DialogPanel>
      </div>
    </Dialog>
  );
}

function Steps({ member, onCancel }: { member: SessionView; onCancel: () => void }) {
  const queries = useQueryClient();
  const { problem, busy, second, attempt, back } = useSignIn((session: SessionView) => {
    queries.setQueryData(names.session, session);
    // With a passkey of somebody else: what one has begun is not the other's to do.
    endSignInAgain(session.id === member.id ? "signed in" : "cancelled");
  });
  const told = <EntryProblem>{problem}</EntryProblem>;
  if (second) return <SecondFactorForm second={second} busy={busy} problem={told} onAttempt={attempt} onBack={back} />;
  return (
    <>
      <p className="mt-2">
        This needs a sign-in of the last 15 minutes. Nothing is changed until then. It continues by itself afterwards.
      </p>
      <form
        onSubmit={(event) => {
          const password = fieldsOf(event)("password");
          void attempt(() => client.signIn({ name: member.name, password }));
        }}
        className="mt-4 flex flex-col gap-4"
      >
        <TextField label="Password" name="password" type="password" autoComplete="current-password" autoFocus />
        {told}
        <div className="flex items-center gap-5">
          <Button type="submit" disabled={busy} className={ENTRY_KEY}>
            {busy ? "Signing in" : "Sign in"}
          </Button>
          {canUsePasskeys() && (
            <Button disabled={busy} onClick={() => void attempt(signInWithPasskey)} className={QUIET_LINK}>
              Use a passkey
            </Button>
          )}
          <Button onClick={onCancel} className={QUIET_LINK}>
            Cancel
          </Button>
        </div>
      </form>
    </>
  );
}
