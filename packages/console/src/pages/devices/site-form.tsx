/** A new site: a name, and the identifier that its topics begin with. */
import { Description, Field, Input, Label } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client } from "../../api/client.ts";
import { names } from "../../api/operate.ts";
import { Button } from "../../parts/button.tsx";
import { FIELD, STRONG, Trouble } from "../../parts/form.tsx";
import { slugOf } from "./device-draft.ts";

/** @param onSaved called once the site is stored */
export function SiteForm({ onSaved = () => {} }: { onSaved?: () => void }) {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  /** null: it is made of the name. */
  const [given, setGiven] = useState<string | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const slug = given ?? slugOf(name);

  async function submit(event: FormEvent<HTMLFormElement>): Promise<void> {
    event.preventDefault();
    setTrouble(null);
    try {
      await client.saveSite({ slug, name: name.trim(), rooms: [] }, 0);
      await queries.invalidateQueries({ queryKey: names.board });
      onSaved();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  }

  return (
    <form aria-label="New site" onSubmit={(event) => void submit(event)} className="mt-3 flex flex-col gap-3">
      <p className="text-note text-soft">A site is a place that you look after: a house, a hall, a nursery.</p>
      <Field className="flex max-w-[360px] flex-col gap-1">
        <Label className="font-plate text-note">Name</Label>
        <Input
          required
          maxLength={80}
          value={name}
          placeholder="Alder Row"
          onChange={(event) => setName(event.target.value)}
          className={FIELD}
        />
      </Field>
      <Field className="flex max-w-[360px] flex-col gap-1">
        <Label className="font-plate text-note">Identifier</Label>
        <Input
          required
          maxLength={40}
          value={slug}
          placeholder="alder-row"
          onChange={(event) => setGiven(event.target.value)}
          className={FIELD}
        />
        <Description className="text-note text-soft">
          Topics and addresses begin with it. It cannot be changed later.
        </Description>
      </Field>
      <Trouble>{trouble}</Trouble>
      <Button type="submit" className={`${STRONG} self-start`}>
        Add site
      </Button>
    </form>
  );
}
