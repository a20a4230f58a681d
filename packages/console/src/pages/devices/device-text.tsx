/** A device as YAML, for all that its form has no field for: topics and words of its own, calibration, what sees a channel. */
import { type DeviceDescription, deviceOf, type SiteDescription, withDevice } from "@bold-relay/core";
import { useCallback, useState } from "react";
import { stringify } from "yaml";
import { readDescription } from "../../parts/description-text.ts";
import { DescriptionEditor } from "../../parts/editor/description-editor.tsx";
import { checkPart } from "./check-part.ts";
import { ChangeFoot } from "./site-plan.tsx";
import { useSiteChange } from "./use-site-change.ts";

interface DeviceTextProps {
  readonly site: string;
  readonly slug: string;
  readonly name: string;
  readonly first: DeviceDescription;
  readonly onSaved: () => void;
  readonly onLeave: () => void;
}

/** Where a device stands in a site. */
const WITHIN = ["rooms", 0, "devices", 0];

export default function DeviceText({ site, slug, name, first, onSaved, onLeave }: DeviceTextProps) {
  const [text, setText] = useState(() => stringify(first));
  const { plan, trouble, submit, forgetPlan } = useSiteChange(
    site,
    (before) => siteWithText(before, slug, text),
    onSaved,
    { part: (before) => deviceOf(before, slug), opened: first },
  );
  const edit = (next: string) => {
    setText(next);
    forgetPlan();
  };
  const check = useCallback((draft: object) => checkPart(site, slug, draft), [site, slug]);

  return (
    <form
      aria-label={`The ${name} as YAML`}
      onSubmit={(event) => void submit(event)}
      className="mt-4 border-act border-l-[3px] bg-sheet px-4 py-4"
    >
      <DescriptionEditor
        kind="site"
        within={WITHIN}
        label="Device, YAML"
        text={text}
        onChange={edit}
        site={site}
        check={check}
        lines={[10, 30]}
      />
      <ChangeFoot plan={plan} trouble={trouble} verb="Save" onLeave={onLeave} />
    </form>
  );
}

/** @throws Error that says what is wrong with the text */
function siteWithText(site: SiteDescription, slug: string, text: string): SiteDescription {
  const device = readDescription<DeviceDescription>(text);
  if ("wrong" in device) throw new Error(device.wrong);
  if (device.slug !== slug) throw new Error(`Its identifier stays ${slug}: channels and history belong to it.`);
  const room = site.rooms.find(({ devices }) => devices.some((one) => one.slug === slug));
  if (!room || !deviceOf(site, slug)) throw new Error(`${site.name} has no device ${slug} any more.`);
  return withDevice(site, room, device);
}
