/** A device as YAML, for all that its form has no field for: topics and words of its own, calibration, what sees a channel. */
import { type DeviceDescription, deviceOf, type SiteDescription, withDevice } from "@bold-relay/core";
import { Field } from "@headlessui/react";
import { useState } from "react";
import { readDescription } from "../../parts/description-text.ts";
import { TextArea } from "../../parts/text-area.tsx";
import { ChangeFoot } from "./site-plan.tsx";
import { useSiteChange } from "./use-site-change.ts";

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
  const [text, setText] = useState(first);
  const { plan, trouble, submit, forgetPlan } = useSiteChange(
    site,
    (before) => siteWithText(before, slug, text),
    onSaved,
  );
  const edit = (next: string) => {
    setText(next);
    forgetPlan();
  };

  return (
    <form
      aria-label={`The ${name} as YAML`}
      onSubmit={(event) => void submit(event)}
      className="mt-4 border-act border-l-[3px] bg-sheet px-4 py-4"
    >
      <Field>
        <TextArea label="Device, YAML" value={text} onChange={edit} lines={[10, 30]} />
      </Field>
      <ChangeFoot plan={plan} trouble={trouble} verb="Save" onLeave={onLeave} />
    </form>
  );
}

/** @throws Error that says what is wrong with the text */
function siteWithText(site: SiteDescription, slug: string, text: string): SiteDescription {
  const device = readDescription<DeviceDescription>(text);
  if ("wrong" in device) throw new Error(device.wrong);
  if (device.slug !== slug) throw new Error(`Its identifier stays ${slug}: channels and history hang on it.`);
  const room = site.rooms.find(({ devices }) => devices.some((one) => one.slug === slug));
  if (!room || !deviceOf(site, slug)) throw new Error(`${site.name} has no device ${slug} any more.`);
  return withDevice(site, room, device);
}
