/** Sharing a panel: each person and tablet gets a link with a key of its own, shown once, also as a QR code. */
import type { InletDescriptionView, NewKeyView } from "@bold-relay/api";
import { Field, Input, Label, Select } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link } from "wouter";
import { client } from "../../api/client.ts";
import { names } from "../../api/operate.ts";
import { Button } from "../../parts/button.tsx";
import { FIELD, SectionTitle, ShownOnce, STRONG, Trouble } from "../../parts/form.tsx";
import { QrCode } from "../../parts/qr-code.tsx";
import { when } from "../../parts/time.ts";

const DAYS = [
  ["1", "a day"],
  ["7", "a week"],
  ["90", "90 days"],
  ["365", "a year"],
  ["", "never"],
] as const;

export function PanelShare({ found: { inlet, reach } }: { found: InletDescriptionView }) {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [days, setDays] = useState("90");
  const [made, setMade] = useState<NewKeyView | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const share = async (event: FormEvent) => {
    event.preventDefault();
    try {
      setMade(await client.addKey({ name, inlet: inlet.slug, expiresInDays: days === "" ? null : Number(days) }));
      setTrouble(null);
      setName("");
      await queries.invalidateQueries({ queryKey: names.inlets });
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <section aria-label="Share">
      <SectionTitle>Share</SectionTitle>
      {reach && <p className="mt-3 max-w-[760px]">{reachText(reach)}</p>}
      <form onSubmit={(event) => void share(event)} className="mt-3 flex flex-wrap items-end gap-3">
        <Field className="flex flex-col gap-1">
          <Label className="font-plate text-note">Who or what gets the link</Label>
          <Input
            value={name}
            required
            maxLength={80}
            placeholder="Kitchen tablet"
            onChange={(event) => setName(event.target.value)}
            className={`${FIELD} w-[220px]`}
          />
        </Field>
        <Field className="flex flex-col gap-1">
          <Label className="font-plate text-note">Expires after</Label>
          <Select value={days} onChange={(event) => setDays(event.target.value)} className={FIELD}>
            {DAYS.map(([value, words]) => (
              <option key={value} value={value}>
                {words}
              </option>
            ))}
          </Select>
        </Field>
        <Button type="submit" className={STRONG}>
          Create link
        </Button>
        <span className="text-note text-soft">
          A link of the same name ends. Revoke links under{" "}
          <Link to="/access" className="text-act underline underline-offset-2">
            Access
          </Link>
          .
        </span>
      </form>
      <Trouble>{trouble}</Trouble>
      {made && <Shared slug={inlet.slug} made={made} onClose={() => setMade(null)} />}
    </section>
  );
}

function Shared({ slug, made, onClose }: { slug: string; made: NewKeyView; onClose: () => void }) {
  const link = `${window.location.origin}/panel/${slug}#${made.key}`;
  const until = made.expiresAt === null ? "does not expire" : `expires at ${when.dateTime(made.expiresAt)}`;
  return (
    <div className="flex flex-wrap items-center gap-x-5">
      <div className="min-w-0 flex-1">
        <ShownOnce what={`Link for ${made.name}, ${until}`} secret={link} onClose={onClose} />
      </div>
      <div className="mt-3">
        <QrCode text={link} label={`QR code of the link for ${made.name}`} />
      </div>
    </div>
  );
}

/** What its holder can do, by what is saved. */
function reachText({ switches, sees, pin }: NonNullable<InletDescriptionView["reach"]>): string {
  return [
    ...(switches.length > 0 ? [`Whoever has a link can switch ${switches.join(", ")}.`] : []),
    ...(sees.length > 0 ? [`Whoever has a link can see ${sees.join(", ")}.`] : []),
    ...(pin ? ["The PIN is asked for first."] : []),
  ].join(" ");
}
