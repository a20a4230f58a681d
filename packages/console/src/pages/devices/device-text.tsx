/** A device as YAML, for all that its form has no field for: topics and words of its own, calibration, what sees a channel. */
import type { SitePlanView } from "@bold-relay/api";
import { type DeviceDescription, deviceOf, withDevice } from "@bold-relay/core";
import { Button, Field, Label, Textarea } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, names } from "../../api/queries.ts";
import { readDescription } from "../../parts/description-text.ts";
import { QUIET, STRONG, Trouble } from "../../parts/form.tsx";
import { SitePlan } from "./site-plan.tsx";

interface DeviceTextProps {
  readonly site: string;
  readonly slug: string;
  readonly name: string;
  /** The description as it stands, in YAML. */
  readonly first: string;
  readonly onSaved: () => void;
  readonly onLeave: () => void;
}

export function DeviceText({ site, slug, name, first, onSaved, onLeave }: DeviceTextProps) {
  const queries = useQueryClient();
  const [text, setText] = useState(first);
  const [plan, setPlan] = useState<SitePlanView | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);

  async function submit(event: FormEvent<HTMLFormElement>): Promise<void> {
    event.preventDefault();
    const isSave = (event.nativeEvent as SubmitEvent).submitter?.getAttribute("value") === "save";
    setTrouble(null);
    try {
      const { site: before, version } = await client.site(site);
      const next = siteWithText(before, slug, text);
      if (!isSave) return setPlan(await client.checkSite(next));
      await client.saveSite(next, version);
      await queries.invalidateQueries({ queryKey: names.devices });
      onSaved();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  }

  return (
    <form
      aria-label={`The ${name} as YAML`}
      onSubmit={(event) => void submit(event)}
      className="mt-4 border-act border-l-[3px] bg-sheet px-4 py-4"
    >
      <Field>
        <Label className="font-plate text-note">Device, YAML</Label>
        <Textarea
          value={text}
          onChange={(event) => {
            setText(event.target.value);
            setPlan(null);
          }}
          spellCheck={false}
          rows={Math.min(30, Math.max(10, text.split("\n").length + 1))}
          className="mt-1 w-full rounded-key border border-soft bg-enclosure px-2.5 py-2 font-mono text-note leading-[19px]"
        />
      </Field>
      {plan && <SitePlan plan={plan} />}
      <Trouble>{trouble}</Trouble>
      <p className="mt-2 flex flex-wrap items-center gap-4">
        <Button type="submit" value="check" className={QUIET}>
          See what would change
        </Button>
        <Button type="submit" value="save" className={STRONG}>
          Save
        </Button>
        <Button onClick={onLeave} className={QUIET}>
          Cancel
        </Button>
      </p>
    </form>
  );
}

type Site = Parameters<typeof deviceOf>[0];

/** @throws Error that says what is wrong with the text */
function siteWithText(site: Site, slug: string, text: string): Site {
  const device = readDescription<DeviceDescription>(text);
  if ("wrong" in device) throw new Error(device.wrong);
  if (device.slug !== slug) throw new Error(`Its identifier stays ${slug}: channels and history hang on it.`);
  const room = site.rooms.find(({ devices }) => devices.some((one) => one.slug === slug));
  if (!room || !deviceOf(site, slug)) throw new Error(`${site.name} has no device ${slug} any more.`);
  return withDevice(site, room, device);
}
