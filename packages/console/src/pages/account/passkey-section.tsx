/** Passkeys: made on this device, by its fingerprint, face or PIN. */
import type { AccountView } from "@bold-relay/api";
import { Field, Input, Label } from "@headlessui/react";
import { type PublicKeyCredentialCreationOptionsJSON, startRegistration } from "@simplewebauthn/browser";
import { client } from "../../api/client.ts";
import { Button } from "../../parts/button.tsx";
import { FIELD, SectionTitle, STRONG, Twice } from "../../parts/form.tsx";
import { canUsePasskeys } from "../../parts/passkey-support.ts";
import { PasswordField } from "../../parts/password-form.tsx";
import { when } from "../../parts/time.ts";
import type { Act } from "./act.ts";

async function addPasskey(name: string, password: string): Promise<void> {
  const { ticket, options } = await client.passkeyOptions({ password });
  const optionsJSON = options as PublicKeyCredentialCreationOptionsJSON;
  await client.addPasskey({ ticket, name, passkey: await startRegistration({ optionsJSON }) });
}

export function PasskeySection({ account: { passkeys }, act }: { account: AccountView; act: Act }) {
  return (
    <section aria-label="Passkeys">
      <SectionTitle>Passkeys</SectionTitle>
      {passkeys.length === 0 && <p className="mt-3 text-soft">You have no passkey.</p>}
      <ul>
        {passkeys.map(({ id, name, createdAt, usedAt }) => (
          <li key={id} className="flex flex-wrap items-center gap-x-4 border-hairline border-b py-2">
            <span className="font-plate font-semibold">{name}</span>
            <span className="text-note text-soft">
              created {when.dateTime(createdAt)},{" "}
              {usedAt === null ? "not used yet" : `last used ${when.dateTime(usedAt)}`}
            </span>
            <span className="ml-auto">
              <Twice verb="Delete" sure={`Delete passkey ${name}`} onSure={() => void act(client.removePasskey(id))} />
            </span>
          </li>
        ))}
      </ul>
      {canUsePasskeys() ? (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            const form = event.currentTarget;
            const data = new FormData(form);
            void act(addPasskey(String(data.get("name")), String(data.get("password")))).then(
              (ok) => ok && form.reset(),
            );
          }}
          className="mt-4 flex flex-wrap items-end gap-3"
        >
          <Field className="flex flex-col gap-1">
            <Label className="font-plate text-note">Name of the passkey</Label>
            <Input name="name" required maxLength={80} placeholder="my phone" className={FIELD} />
          </Field>
          <PasswordField />
          <Button type="submit" className={STRONG}>
            Add passkey
          </Button>
        </form>
      ) : (
        <p className="mt-3 text-note text-soft">Passkeys take HTTPS, a host name and a browser that knows them.</p>
      )}
    </section>
  );
}
