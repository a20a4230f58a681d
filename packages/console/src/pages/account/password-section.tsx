/** A new password: takes the one of now, and ends the other sessions. */
import { Field, Input, Label } from "@headlessui/react";
import { useState } from "react";
import { client } from "../../api/client.ts";
import { Button } from "../../parts/button.tsx";
import { FIELD, SectionTitle, STRONG } from "../../parts/form.tsx";
import type { Act } from "./act.ts";

export function PasswordSection({ act }: { act: Act }) {
  const [saved, setSaved] = useState(false);
  return (
    <section aria-label="Password">
      <SectionTitle>Password</SectionTitle>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          const form = event.currentTarget;
          const data = new FormData(form);
          const body = {
            password: String(data.get("password")),
            next: String(data.get("next")),
            endKeys: data.get("endKeys") === "on",
          };
          void act(client.changePassword(body)).then((ok) => {
            setSaved(ok);
            if (ok) form.reset();
          });
        }}
        className="mt-3 flex flex-wrap items-end gap-3"
      >
        <Field className="flex flex-col gap-1">
          <Label className="font-plate text-note">Current password</Label>
          <Input name="password" type="password" autoComplete="current-password" required className={FIELD} />
        </Field>
        <Field className="flex flex-col gap-1">
          <Label className="font-plate text-note">New password</Label>
          <Input name="next" type="password" autoComplete="new-password" required maxLength={200} className={FIELD} />
        </Field>
        <Button type="submit" className={STRONG}>
          Change password
        </Button>
        <label className="flex w-full gap-2 text-note">
          <input type="checkbox" name="endKeys" className="accent-act" />
          <span>Revoke all my keys, too. Programs that use them stop working.</span>
        </label>
      </form>
      <p role="status" className="mt-2 text-note text-soft">
        {saved
          ? "Password changed. Your other sessions have ended."
          : "At least 12 characters. Several words that do not belong together are best."}
      </p>
    </section>
  );
}
