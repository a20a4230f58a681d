/** The frame of every form that adds or changes a part of a site. */
import type { SitePlanView } from "@bold-relay/api";
import { Field, Input, Label } from "@headlessui/react";
import type { FormEvent, ReactNode } from "react";
import { FIELD } from "../../parts/form.tsx";
import { ChangeFoot } from "../devices/site-plan.tsx";

interface PartFormProps {
  readonly title: string;
  readonly verb: string;
  readonly plan: SitePlanView | null;
  readonly trouble: string | null;
  readonly onSubmit: (event: FormEvent<HTMLFormElement>) => void;
  readonly onLeave: () => void;
  readonly children: ReactNode;
}

export function PartForm({ title, verb, plan, trouble, onSubmit, onLeave, children }: PartFormProps) {
  return (
    <form
      aria-label={title}
      onSubmit={onSubmit}
      className="mt-2 mb-3 grid grid-cols-2 gap-x-5 gap-y-3 border-act border-l-[3px] bg-sheet px-4 py-4 max-md:grid-cols-1"
    >
      {children}
      <div className="col-span-2 max-md:col-span-1">
        <ChangeFoot plan={plan} trouble={trouble} verb={verb} onLeave={onLeave} />
      </div>
    </form>
  );
}

interface TextFieldProps {
  readonly label: string;
  readonly hint?: string;
  readonly value: string;
  readonly isFixed?: boolean;
  readonly isRequired?: boolean;
  readonly list?: string;
  readonly onChange: (text: string) => void;
}

export function TextField({ label, hint, value, isFixed = false, isRequired = true, list, onChange }: TextFieldProps) {
  return (
    <Field className="flex flex-col gap-1">
      <Label className="font-plate text-note">{label}</Label>
      <Input
        required={isRequired}
        maxLength={80}
        value={value}
        disabled={isFixed}
        placeholder={hint}
        list={list}
        onChange={(event) => onChange(event.target.value)}
        className={`${FIELD} disabled:opacity-60`}
      />
    </Field>
  );
}
