/** What forms that take a password share: a field, a key, a message. */
import { Field, Input, Label } from "@headlessui/react";
import type { FormEvent, ReactNode } from "react";

export const ENTRY_KEY =
  "h-9 self-start rounded-key bg-act px-4 font-semibold text-letters disabled:opacity-60 hover:underline";
export const QUIET_LINK = "text-act underline-offset-2 hover:underline";

export function EntryProblem({ children }: { children: ReactNode }) {
  if (children === null) return null;
  return (
    <p role="alert" className="mt-4 border-wrong border-l-[3px] bg-wrong-wash px-3 py-2">
      {children}
    </p>
  );
}

interface TextFieldProps {
  readonly label: string;
  readonly name: string;
  readonly type?: string;
  readonly autoComplete: string;
  readonly autoFocus?: boolean;
}

export function TextField({ label, ...input }: TextFieldProps) {
  return (
    <Field className="flex flex-col gap-1">
      <Label className="font-medium font-plate">{label}</Label>
      <Input required maxLength={200} {...input} className="h-9 rounded-key border border-soft bg-sheet px-2.5" />
    </Field>
  );
}

/** The fields of a form that is being sent, by name. */
export function fieldsOf(event: FormEvent<HTMLFormElement>): (name: string) => string {
  event.preventDefault();
  const form = new FormData(event.currentTarget);
  return (name) => String(form.get(name));
}
