/** Keys that count, never the keys themselves; making one, revoking one. */
import type { KeyView, NewKeyView } from "@bold-relay/api";
import { Button, Field, Input, Label } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, names, useKeys } from "../../api/queries.ts";
import { FIELD, SectionTitle, ShownOnce, STRONG, Trouble, Twice } from "../../parts/form.tsx";

export function KeyList({ me }: { me: string }) {
  const { data: keys, error } = useKeys();
  const queries = useQueryClient();
  const [made, setMade] = useState<NewKeyView | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const act = async (work: Promise<unknown>) => {
    setTrouble(null);
    await work.catch((cause: Error) => setTrouble(cause.message));
    await queries.invalidateQueries({ queryKey: names.team });
  };

  async function submit(event: FormEvent<HTMLFormElement>): Promise<void> {
    event.preventDefault();
    const form = event.currentTarget;
    const data = new FormData(form);
    const days = Number(data.get("days"));
    const body = { name: String(data.get("name")), ...(days > 0 ? { expiresInDays: days } : {}) };
    await act(client.addKey(body).then(setMade));
    form.reset();
  }

  return (
    <section aria-label="Keys">
      <SectionTitle>Keys</SectionTitle>
      {error && <p className="mt-3 text-soft">{error.message}</p>}
      <ul>
        {keys?.map((key) => (
          <li key={key.id} className="flex flex-wrap items-center gap-x-4 gap-y-1 border-hairline border-b py-2">
            <span className="min-w-[120px] font-plate font-semibold">{key.name}</span>
            <span className="text-note text-soft">{keyText(key, me)}</span>
            <span className="ml-auto">
              <Twice verb="Revoke" sure={`Revoke ${key.name}`} onSure={() => void act(client.revokeKey(key.id))} />
            </span>
          </li>
        ))}
      </ul>
      {keys && (
        <form onSubmit={(event) => void submit(event)} className="mt-4 flex flex-wrap items-end gap-3">
          <Field className="flex flex-col gap-1">
            <Label className="font-plate text-note">New key of yours, for</Label>
            <Input name="name" required maxLength={80} placeholder="wall panel" className={FIELD} />
          </Field>
          <Field className="flex flex-col gap-1">
            <Label className="font-plate text-note">Expires after days</Label>
            <Input name="days" type="number" min={1} max={3650} placeholder="never" className={`${FIELD} w-[110px]`} />
          </Field>
          <Button type="submit" className={STRONG}>
            Make
          </Button>
        </form>
      )}
      <Trouble>{trouble}</Trouble>
      {made && <ShownOnce what={`Key “${made.name}”`} secret={made.key} onClose={() => setMade(null)} />}
    </section>
  );
}

function keyText({ member, inlet, most, createdAt, expiresAt }: KeyView, me: string): string {
  const holder = member === null ? `inlet ${inlet}` : member === me ? "yours" : member;
  const parts = [holder, `made ${new Date(createdAt).toLocaleDateString()}`];
  if (most !== null) parts.push(`at most ${most}`);
  if (expiresAt !== null) parts.push(`expires ${new Date(expiresAt).toLocaleDateString()}`);
  return parts.join(", ");
}
