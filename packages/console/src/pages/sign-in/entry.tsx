/** What the pages before a session share: the narrow column, its fields, its message. */
import { Field, Input, Label } from "@headlessui/react";
import { ProductSign } from "../../parts/product-sign.tsx";

export const ENTRY_KEY =
  "h-9 self-start rounded-key bg-act px-4 font-semibold text-letters disabled:opacity-60 hover:underline";

export function EntryPage({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <main className="mx-auto flex min-h-dvh max-w-[330px] flex-col justify-center px-4 pb-[12vh]">
      <ProductSign />
      <h1 className="mt-8 border-ink border-b pb-2 text-page">{title}</h1>
      {children}
    </main>
  );
}

export function EntryProblem({ children }: { children: string | null }) {
  if (children === null) return null;
  return (
    <p role="alert" className="mt-4 border-wrong border-l-[3px] bg-wrong-wash px-3 py-2">
      {children}
    </p>
  );
}

export function TextField({ label, ...input }: { label: string; name: string; type?: string; autoComplete: string }) {
  return (
    <Field className="flex flex-col gap-1">
      <Label className="font-medium font-plate">{label}</Label>
      <Input required maxLength={200} {...input} className="h-9 rounded-key border border-soft bg-sheet px-2.5" />
    </Field>
  );
}
