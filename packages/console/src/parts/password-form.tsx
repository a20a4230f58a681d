/** One's own password, asked for again before what an open page must not do by itself. */
import { Field, Input, Label } from "@headlessui/react";
import { Button } from "./button.tsx";
import { FIELD, STRONG } from "./form.tsx";

/** @param verb what the button does, with its object: "Remove app" */
export function PasswordForm({ verb, onPassword }: { verb: string; onPassword: (password: string) => void }) {
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        onPassword(String(new FormData(event.currentTarget).get("password")));
      }}
      className="mt-3 flex flex-wrap items-end gap-3"
    >
      <PasswordField />
      <Button type="submit" className={STRONG}>
        {verb}
      </Button>
    </form>
  );
}

export function PasswordField() {
  return (
    <Field className="flex flex-col gap-1">
      <Label className="font-plate text-note">Your password</Label>
      <Input
        name="password"
        type="password"
        autoComplete="current-password"
        required
        maxLength={200}
        className={FIELD}
      />
    </Field>
  );
}
