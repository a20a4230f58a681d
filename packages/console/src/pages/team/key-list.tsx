/** Keys that count, never the keys themselves; making one, revoking one. */
import type { KeyView, NewKeyBody, NewKeyView } from "@bold-relay/api";
import { ROLES, type Role } from "@bold-relay/core";
import { Field, Input, Label, Select } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client } from "../../api/client.ts";
import { names } from "../../api/operate.ts";
import { useKeys } from "../../api/queries.ts";
import { Button } from "../../parts/button.tsx";
import { FIELD, SectionTitle, ShownOnce, STRONG, Trouble, Twice } from "../../parts/form.tsx";
import { when } from "../../parts/time.ts";

const NEVER = "never";
const AS_HOLDER = "";

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
    const days = String(data.get("days"));
    const most = String(data.get("most"));
    const body: NewKeyBody = { name: String(data.get("name")), expiresInDays: days === NEVER ? null : Number(days) };
    if (most !== AS_HOLDER) body.most = most as Role;
    if (data.get("exports") === "on") body.exports = true;
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
            <Label className="font-plate text-note">Name of the new key</Label>
            <Input name="name" required maxLength={80} placeholder="wall panel" className={FIELD} />
          </Field>
          <Field className="flex flex-col gap-1">
            <Label className="font-plate text-note">Highest role</Label>
            <Select name="most" defaultValue={AS_HOLDER} className={FIELD}>
              <option value={AS_HOLDER}>your role</option>
              {ROLES.map((role) => (
                <option key={role}>{role}</option>
              ))}
            </Select>
          </Field>
          <Field className="flex flex-col gap-1">
            <Label className="font-plate text-note">Expires</Label>
            <Select name="days" defaultValue="90" className={FIELD}>
              <option value="1">after 1 day</option>
              <option value="30">after 30 days</option>
              <option value="90">after 90 days</option>
              <option value="365">after 1 year</option>
              <option value={NEVER}>never</option>
            </Select>
          </Field>
          <label className="flex h-8 items-center gap-2 text-note">
            <input type="checkbox" name="exports" className="accent-act" />
            <span>May export the request log</span>
          </label>
          <Button type="submit" className={STRONG}>
            Create key
          </Button>
        </form>
      )}
      <Trouble>{trouble}</Trouble>
      {made && <ShownOnce what={`Key “${made.name}”`} secret={made.key} onClose={() => setMade(null)} />}
    </section>
  );
}

function keyText(key: KeyView, me: string): string {
  const { member, inlet, most, sites, exports, createdAt, createdBy, creatorIsGone, expiresAt } = key;
  const holder = member === null ? `inlet ${inlet}` : member === me ? "yours" : member;
  const by = createdBy === null || createdBy === member ? "" : ` by ${createdBy}${creatorIsGone ? " (deleted)" : ""}`;
  const parts = [holder, `created ${when.date(createdAt)}${by}`];
  if (exports) parts.push("may export the log");
  if (most !== null) parts.push(`at most ${most}`);
  if (sites !== null) parts.push(`only ${sites.join(", ")}`);
  parts.push(expiresAt === null ? "never expires" : `expires ${when.date(expiresAt)}`);
  return parts.join(", ");
}
