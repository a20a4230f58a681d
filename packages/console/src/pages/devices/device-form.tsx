/** A device as a form: one more, one changed, or the board that takes the place of a dead one. What it would change is shown first. */
import type { ProfileView } from "@bold-relay/api";
import { type DeviceDescription, deviceOf, type SiteDescription } from "@bold-relay/core";
import { Field, Input, Label, Select } from "@headlessui/react";
import { useState } from "react";
import { Link } from "wouter";
import { useBoard } from "../../api/board.ts";
import { useProfiles } from "../../api/queries.ts";
import { FIELD } from "../../parts/form.tsx";
import { ChannelFields } from "./channel-fields.tsx";
import { type DeviceDraft, siteWith } from "./device-draft.ts";
import { ChangeFoot } from "./site-plan.tsx";
import { useSiteChange } from "./use-site-change.ts";

interface DeviceFormProps {
  readonly title: string;
  readonly verb: string;
  readonly first: DeviceDraft;
  /** As it stands in the site: its site and its identifier stay. null: it is new. */
  readonly stands: DeviceDescription | null;
  /** Called once the device is saved. */
  readonly onSaved: () => void;
  /** Left out: there is nowhere to go back to. */
  readonly onLeave?: () => void;
}

const LABEL = "font-plate text-note";

export function DeviceForm({ title, verb, first, stands, onSaved, onLeave }: DeviceFormProps) {
  const { data: board } = useBoard();
  const { data: profiles } = useProfiles();
  const [draft, setDraft] = useState(first);
  const { plan, trouble, submit, forgetPlan } = useSiteChange(
    draft.site,
    (site) => siteWith(site, draft, stands !== null),
    onSaved,
    ...(stands ? [{ part: (site: SiteDescription) => deviceOf(site, stands.slug), opened: stands }] : []),
  );
  const change = (part: Partial<DeviceDraft>) => {
    setDraft({ ...draft, ...part });
    forgetPlan();
  };

  return (
    <form
      aria-label={title}
      onSubmit={(event) => void submit(event)}
      className="mt-4 grid grid-cols-2 gap-x-5 gap-y-3 border-act border-l-[3px] bg-sheet px-4 py-4 max-md:grid-cols-1"
    >
      <Field className="flex flex-col gap-1">
        <Label className={LABEL}>Site</Label>
        <Select
          value={draft.site}
          disabled={stands !== null}
          onChange={(event) => change({ site: event.target.value })}
          className={`${FIELD} disabled:opacity-60`}
        >
          {board?.sites.map(({ slug, name }) => (
            <option key={slug} value={slug}>
              {name}
            </option>
          ))}
        </Select>
      </Field>
      <Text label="Room" hint="Boiler room" value={draft.room} onChange={(room) => change({ room })} />
      <Text
        label="Name"
        hint="relay board beside the boiler"
        value={draft.name}
        onChange={(name) => change({ name })}
      />
      <Text
        label="Identifier"
        hint="boiler-board"
        value={draft.slug}
        disabled={stands !== null}
        onChange={(slug) => change({ slug })}
      />
      <Field className="col-span-2 flex flex-col gap-1 max-md:col-span-1">
        <Label className={LABEL}>Profile</Label>
        <Select value={draft.profile} onChange={(event) => change({ profile: event.target.value })} className={FIELD}>
          {profiles?.map(({ profile: { slug, name } }) => (
            <option key={slug} value={slug}>
              {name}
            </option>
          ))}
        </Select>
        <ProfileTopics profiles={profiles ?? []} chosen={draft.profile} />
      </Field>
      <ChannelFields channels={draft.channels} onChange={(channels) => change({ channels })} />
      <div className="col-span-2 max-md:col-span-1">
        <ChangeFoot plan={plan} trouble={trouble} verb={verb} {...(onLeave ? { onLeave } : {})} />
      </div>
    </form>
  );
}

interface TextProps {
  readonly label: string;
  readonly hint: string;
  readonly value: string;
  readonly disabled?: boolean;
  readonly onChange: (text: string) => void;
}

function Text({ label, hint, value, disabled = false, onChange }: TextProps) {
  return (
    <Field className="flex flex-col gap-1">
      <Label className={LABEL}>{label}</Label>
      <Input
        required
        maxLength={80}
        value={value}
        disabled={disabled}
        placeholder={hint}
        onChange={(event) => onChange(event.target.value)}
        className={`${FIELD} disabled:opacity-60`}
      />
    </Field>
  );
}

/** The topics to which commands to a device of this profile go, and on which its reports come. */
function ProfileTopics({ profiles, chosen }: { profiles: readonly ProfileView[]; chosen: string }) {
  const topics = profiles.find(({ profile }) => profile.slug === chosen)?.profile.topics;
  if (!topics) return null;
  const shown = [topics.do && `→ ${topics.do}`, topics.is && `← ${topics.is}`].filter(Boolean).join("   ");
  return (
    <span className="text-note text-soft">
      <span className="break-all font-mono">{shown}</span> More profiles:{" "}
      <Link to="/devices/profiles" className="text-act underline underline-offset-2">
        Profiles
      </Link>
    </span>
  );
}
