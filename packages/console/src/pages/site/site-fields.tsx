/** The name and the time zone of a site. */
import type { SiteDescription } from "@bold-relay/core";
import { useState } from "react";
import { PartForm, TextField } from "./part-form.tsx";
import { usePartEdit } from "./use-part-edit.ts";

export function SiteFields({ site, onClose }: { site: SiteDescription; onClose: () => void }) {
  const [name, setName] = useState(site.name);
  const [zone, setZone] = useState(site.timeZone ?? "");
  const { plan, trouble, submit } = usePartEdit(site, ({ name: now, timeZone }) => [now, timeZone ?? ""], onClose);
  const edit = () =>
    ({ edit: "site", fields: { name: name.trim(), timeZone: zone.trim() === "" ? null : zone.trim() } }) as const;
  return (
    <PartForm
      title={`Edit ${site.name}`}
      verb="Save"
      plan={plan}
      trouble={trouble}
      onSubmit={submit(edit)}
      onLeave={onClose}
    >
      <TextField label="Name" value={name} onChange={setName} />
      <TextField
        label="Time zone"
        hint="Europe/London; empty: that of the reader"
        value={zone}
        isRequired={false}
        list="time-zones"
        onChange={setZone}
      />
      <datalist id="time-zones">
        {Intl.supportedValuesOf("timeZone").map((one) => (
          <option key={one} value={one} />
        ))}
      </datalist>
    </PartForm>
  );
}
