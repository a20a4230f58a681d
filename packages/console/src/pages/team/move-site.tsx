/** Moves a site to another shard: its requests wait for that long, and what is open goes on there. */

import type { ShardView } from "@bold-relay/api";
import { Field, Input, Label, Select } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client } from "../../api/client.ts";
import { Button } from "../../parts/button.tsx";
import { FIELD, STRONG } from "../../parts/form.tsx";

interface Props {
  readonly shards: readonly ShardView[];
  readonly onTrouble: (text: string | null) => void;
}

export function MoveSite({ shards, onTrouble }: Props) {
  const queries = useQueryClient();
  const [site, setSite] = useState("");
  const [to, setTo] = useState("");
  const [note, setNote] = useState<string | null>(null);
  const [isMoving, setMoving] = useState(false);
  const from = shards.find(({ sites }) => sites.includes(site))?.shard;
  const targets = shards.map(({ shard }) => shard).filter((shard) => shard !== from);
  const isChosen = from !== undefined && targets.includes(Number(to)) && to !== "";

  const move = async (event: FormEvent) => {
    event.preventDefault();
    onTrouble(null);
    setNote(null);
    setMoving(true);
    try {
      await client.moveSite(site, Number(to));
      setNote(`Moved ${site} to shard ${to}.`);
      setTo("");
    } catch (error) {
      onTrouble((error as Error).message);
    }
    setMoving(false);
    await queries.invalidateQueries({ queryKey: ["cluster"] });
  };

  return (
    <form aria-label="Move site" onSubmit={(event) => void move(event)} className="mt-3 flex flex-wrap items-end gap-3">
      <Field className="flex flex-col gap-1">
        <Label className="font-plate text-note">Site</Label>
        <Input
          list="sites-in-shards"
          autoComplete="off"
          placeholder="alder-row"
          value={site}
          onChange={(event) => setSite(event.target.value.trim())}
          className={`${FIELD} w-[220px]`}
        />
      </Field>
      <datalist id="sites-in-shards">
        {shards.flatMap(({ shard, sites }) =>
          sites.map((one) => (
            <option key={one} value={one}>
              shard {shard}
            </option>
          )),
        )}
      </datalist>
      <Field className="flex flex-col gap-1">
        <Label className="font-plate text-note">To shard</Label>
        <Select value={to} onChange={(event) => setTo(event.target.value)} className={FIELD}>
          <option value="">choose</option>
          {targets.map((shard) => (
            <option key={shard} value={shard}>
              {shard}
            </option>
          ))}
        </Select>
      </Field>
      <Button type="submit" disabled={!isChosen || isMoving} className={`${STRONG} disabled:opacity-50`}>
        {isMoving ? "Moving …" : "Move site"}
      </Button>
      <p role="status" className="h-9 content-center text-note text-soft">
        {note ?? (from === undefined ? "" : `${site} is in shard ${from}.`)}
      </p>
    </form>
  );
}
