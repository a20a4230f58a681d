/** The channels of a device, one a line of fields. */
import { countsNumbers, type KindName, kindNames, kindOf } from "@bold-relay/core";
import { Input, Select } from "@headlessui/react";
import { Button } from "../../parts/button.tsx";
import { FIELD, QUIET } from "../../parts/form.tsx";
import { type ChannelDraft, emptyChannel } from "./device-draft.ts";

interface ChannelFieldsProps {
  readonly channels: readonly ChannelDraft[];
  readonly onChange: (channels: readonly ChannelDraft[]) => void;
}

const GRID =
  "grid grid-cols-[minmax(110px,1.4fr)_minmax(90px,1fr)_100px_56px_104px_60px_60px] items-center gap-x-2 max-md:grid-cols-2 max-md:gap-y-1.5";
const SMALL = `${FIELD} min-w-0 text-note`;

export function ChannelFields({ channels, onChange }: ChannelFieldsProps) {
  const change = (key: number, part: Partial<ChannelDraft>) =>
    onChange(channels.map((one) => (one.key === key ? { ...one, ...part } : one)));
  return (
    <fieldset className="col-span-2 min-w-0 max-md:col-span-1">
      <legend className="font-plate text-note">Channels</legend>
      <div aria-hidden="true" className={`${GRID} mt-1.5 text-note text-soft max-md:hidden`}>
        {["Name", "Identifier", "Kind", "No.", "Wiring", "Unit", ""].map((title) => (
          <span key={title}>{title}</span>
        ))}
      </div>
      {channels.map((channel, index) => (
        <ChannelLine
          key={channel.key}
          channel={channel}
          number={index + 1}
          onChange={(part) => change(channel.key, part)}
          onRemove={() => onChange(channels.filter(({ key }) => key !== channel.key))}
        />
      ))}
      <Button onClick={() => onChange([...channels, emptyChannel()])} className={`${QUIET} mt-2`}>
        Add channel
      </Button>
    </fieldset>
  );
}

interface ChannelLineProps {
  readonly channel: ChannelDraft;
  readonly number: number;
  readonly onChange: (part: Partial<ChannelDraft>) => void;
  readonly onRemove: () => void;
}

function ChannelLine({ channel, number, onChange, onRemove }: ChannelLineProps) {
  const { name, slug, kind, index, reversed, unit } = channel;
  const of = (what: string) => `${what} of channel ${number}`;
  return (
    <div className={`${GRID} mt-1.5 max-md:border-hairline max-md:border-b max-md:pb-2`}>
      <Input
        aria-label={of("Name")}
        value={name}
        onChange={(event) => onChange({ name: event.target.value })}
        placeholder="Path lights"
        maxLength={80}
        className={SMALL}
      />
      <Input
        aria-label={of("Identifier")}
        value={slug}
        onChange={(event) => onChange({ slug: event.target.value })}
        placeholder="path-lights"
        maxLength={40}
        className={`${SMALL} font-mono`}
      />
      <Select
        aria-label={of("Kind")}
        value={kind}
        onChange={(event) => onChange({ kind: event.target.value as KindName })}
        className={SMALL}
      >
        {kindNames.map((one) => (
          <option key={one}>{one}</option>
        ))}
      </Select>
      <Input
        aria-label={of("Number on the device")}
        value={index}
        onChange={(event) => onChange({ index: event.target.value })}
        inputMode="numeric"
        pattern="\d{0,5}"
        className={`${SMALL} text-right`}
      />
      <Select
        aria-label={of("Wiring")}
        value={reversed ? "reversed" : "plain"}
        onChange={(event) => onChange({ reversed: event.target.value === "reversed" })}
        className={SMALL}
      >
        <option value="plain">normal</option>
        <option value="reversed">reversed</option>
      </Select>
      <Input
        aria-label={of("Unit")}
        value={unit}
        onChange={(event) => onChange({ unit: event.target.value })}
        placeholder="°C"
        maxLength={12}
        disabled={!countsNumbers(kindOf(kind))}
        className={`${SMALL} disabled:opacity-40`}
      />
      <Button onClick={onRemove} aria-label={`Remove channel ${number}`} className={QUIET}>
        Remove
      </Button>
    </div>
  );
}
