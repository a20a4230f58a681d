/** The authenticator app: a secret is shown, a first code confirms it, and recovery codes are shown once. */
import type { AccountView, NewAppView } from "@bold-relay/api";
import { Field, Input, Label } from "@headlessui/react";
import { useState } from "react";
import { client } from "../../api/client.ts";
import { Button } from "../../parts/button.tsx";
import { FIELD, QUIET, SectionTitle, ShownOnce, STRONG } from "../../parts/form.tsx";
import { PasswordForm } from "../../parts/password-form.tsx";
import { QrCode } from "../../parts/qr-code.tsx";
import type { Act } from "./act.ts";

export function AppSection({ account: { app, recoveryCodes }, act }: { account: AccountView; act: Act }) {
  const [draft, setDraft] = useState<NewAppView | null>(null);
  const [codes, setCodes] = useState<readonly string[] | null>(null);
  return (
    <section aria-label="Authenticator app">
      <SectionTitle>Authenticator app</SectionTitle>
      {codes && <ShownOnce what="Recovery codes" secret={codes.join(" ")} onClose={() => setCodes(null)} />}
      {app ? (
        <Standing recoveryCodes={recoveryCodes} act={act} />
      ) : draft ? (
        <Confirm
          draft={draft}
          onCode={(code) =>
            void act(
              client.confirmApp({ code }).then((made) => {
                setCodes(made.recoveryCodes);
                setDraft(null);
              }),
            )
          }
        />
      ) : (
        <>
          <p className="mt-3 text-soft">You have no authenticator app.</p>
          <PasswordForm
            verb="Add authenticator app"
            onPassword={(password) => void act(client.newApp({ password }).then(setDraft))}
          />
        </>
      )}
    </section>
  );
}

function Confirm({ draft: { uri, secret }, onCode }: { draft: NewAppView; onCode: (code: string) => void }) {
  return (
    <div className="mt-3 flex flex-wrap gap-5">
      <QrCode text={uri} label="QR code of the secret" />
      <form
        onSubmit={(event) => {
          event.preventDefault();
          onCode(String(new FormData(event.currentTarget).get("code")));
        }}
        className="flex min-w-[240px] flex-1 flex-col gap-3"
      >
        <p>Scan the code with your app, or type the secret. Then enter the first code that it shows.</p>
        <p className="break-all font-mono text-note">{secret}</p>
        <Field className="flex flex-col gap-1">
          <Label className="font-plate text-note">Code</Label>
          <Input
            name="code"
            required
            inputMode="numeric"
            autoComplete="one-time-code"
            maxLength={10}
            className={`${FIELD} w-[120px]`}
          />
        </Field>
        <Button type="submit" className={`${STRONG} self-start`}>
          Confirm code
        </Button>
      </form>
    </div>
  );
}

function Standing({ recoveryCodes, act }: { recoveryCodes: number; act: Act }) {
  const [removing, setRemoving] = useState(false);
  return (
    <>
      <p className="mt-3">
        A code is required at every sign-in. {recoveryCodes} recovery codes are left.{" "}
        <Button onClick={() => setRemoving(!removing)} className={QUIET}>
          {removing ? "Cancel" : "Remove app"}
        </Button>
      </p>
      {removing && (
        <PasswordForm verb="Remove app" onPassword={(password) => void act(client.removeApp({ password }))} />
      )}
    </>
  );
}
