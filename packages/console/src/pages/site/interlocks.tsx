/** The interlocks of a site: channels of which one at most may be on. */
import { type InterlockDescription, kindOf, type SiteDescription } from "@bold-relay/core";
import { Description, Field, Input, Label, Select } from "@headlessui/react";
import { useState } from "react";
import { FIELD } from "../../parts/form.tsx";
import { ChannelPicker } from "./channel-picker.tsx";
import { channelNames } from "./groups.tsx";
import { PartForm, TextField } from "./part-form.tsx";
import { PartList } from "./part-list.tsx";
import { usePartEdit } from "./use-part-edit.ts";

export function Interlocks({ site }: { site: SiteDescription }) {
  const entries = (site.interlocks ?? []).map(({ name, channels, meets }) => ({
    id: name,
    name,
    about: `${channelNames(site, channels)}. ${meets === "refuse" ? "A request is refused while another is on." : "The other one is switched off first."}`,
  }));
  return (
    <PartList
      site={site}
      part="interlocks"
      title="Interlocks"
      empty="No interlocks. An interlock lets only one of several channels be on, like the two directions of a motor."
      entries={entries}
      form={(name, close) => <InterlockForm site={site} known={name} onClose={close} />}
    />
  );
}

function InterlockForm({ site, known, onClose }: { site: SiteDescription; known: string | null; onClose: () => void }) {
  const before = site.interlocks?.find((one) => one.name === known);
  const [name, setName] = useState(before?.name ?? "");
  const [channels, setChannels] = useState<readonly string[]>(before?.channels ?? []);
  const [gapMs, setGapMs] = useState(String(before?.gapMs ?? 0));
  const [meets, setMeets] = useState<InterlockDescription["meets"]>(before?.meets ?? "refuse");
  const { plan, trouble, submit } = usePartEdit(
    site,
    ({ interlocks }) => interlocks?.find((one) => one.name === known),
    onClose,
  );
  const edit = () =>
    ({
      edit: "put",
      part: "interlocks",
      name: name.trim(),
      fields: { channels, gapMs: Number(gapMs), meets },
    }) as const;
  return (
    <PartForm
      title={before ? `Edit ${before.name}` : "New interlock"}
      verb={before ? "Save" : "Add interlock"}
      plan={plan}
      trouble={trouble}
      onSubmit={submit(edit)}
      onLeave={onClose}
    >
      <TextField
        label="Name"
        hint="vent open or close"
        value={name}
        isFixed={before !== undefined}
        onChange={setName}
      />
      <Field className="flex flex-col gap-1">
        <Label className="font-plate text-note">Least time between two (ms)</Label>
        <Input
          value={gapMs}
          inputMode="numeric"
          pattern="\d{1,5}"
          onChange={(event) => setGapMs(event.target.value)}
          className={`${FIELD} w-[120px] text-right`}
        />
      </Field>
      <Field className="flex flex-col gap-1">
        <Label className="font-plate text-note">While another one is on</Label>
        <Select
          value={meets}
          onChange={(event) => setMeets(event.target.value as InterlockDescription["meets"])}
          className={FIELD}
        >
          <option value="refuse">refuse the request</option>
          <option value="switch-off">switch the other one off first</option>
        </Select>
        <Description className="text-note text-soft">Unknown counts as on.</Description>
      </Field>
      <ChannelPicker
        site={site}
        chosen={channels}
        onChange={setChannels}
        isOffered={({ kind }) => kindOf(kind).input === false}
      />
    </PartForm>
  );
}
