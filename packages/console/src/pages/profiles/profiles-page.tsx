/** Profiles: what devices of one make have in common, edited as YAML and tried beside it before anything is saved. */
import type { MessageBody, ProfileView } from "@bold-relay/api";
import { type ChannelDescription, type KindName, kindNames, type Profile } from "@bold-relay/core";
import { Field, Input, Label, Select } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "wouter";
import { stringify } from "yaml";
import { client } from "../../api/client.ts";
import { useProfiles } from "../../api/queries.ts";
import { Button } from "../../parts/button.tsx";
import { Deleted } from "../../parts/deleted.tsx";
import { readDescription } from "../../parts/description-text.ts";
import { DescriptionEditor } from "../../parts/editor/description-editor.tsx";
import { type UsualField, UsualFields } from "../../parts/editor/usual-fields.tsx";
import { FIELD, QUIET, SectionTitle, STRONG, Trouble, Twice } from "../../parts/form.tsx";
import { Versions } from "../../parts/versions.tsx";
import { HeardMessages } from "./heard-messages.tsx";
import { ProfileTrial } from "./profile-trial.tsx";

export function ProfilesPage() {
  const { data: profiles, error } = useProfiles();
  const [chosen, setChosen] = useState<string | null>(null);
  const [deleted, setDeleted] = useState<string | null>(null);
  const first = profiles?.find(({ profile }) => profile.slug === chosen) ?? profiles?.[0];
  return (
    <div className="px-5 pt-5 pb-10 max-md:px-3 max-md:pt-3">
      <p className="text-note">
        <Link to="/devices" className="text-act underline-offset-2 hover:underline">
          Devices
        </Link>
      </p>
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-2">
        <h1 className="text-page">Profiles</h1>
        <p className="text-soft">
          A profile holds topics, payloads and delivery settings of one kind of device. Edit it here and see the
          resulting messages.
        </p>
      </header>
      {error && <p className="mt-3 text-wrong">{error.message}</p>}
      {deleted && <Deleted kind="profile" slug={deleted} name={deleted} onDone={() => setDeleted(null)} />}
      {profiles && first && (
        <Field className="mt-4 flex flex-wrap items-center gap-3">
          <Label className="font-plate text-note">Profile</Label>
          <Select
            value={first.profile.slug}
            onChange={(event) => setChosen(event.target.value)}
            className={`${FIELD} max-w-full`}
          >
            {profiles.map(({ profile, devices }) => (
              <option key={profile.slug} value={profile.slug}>
                {profile.name} ({devices === 1 ? "1 device" : `${devices} devices`})
              </option>
            ))}
          </Select>
        </Field>
      )}
      {first && (
        <Editor
          key={`${first.profile.slug} ${first.version}`}
          view={first}
          onChoose={setChosen}
          onDeleted={setDeleted}
        />
      )}
    </div>
  );
}

const checkProfile = (draft: object) => client.checkDescription("profile", draft);

const FIELDS: readonly UsualField[] = [
  { path: ["name"], label: "Name" },
  { path: ["topics", "do"], label: "Command topic" },
  { path: ["topics", "is"], label: "State topic" },
  { path: ["delivery", "targetStage"], label: "Target stage" },
  { path: ["delivery", "ackWithinMs"], label: "Acknowledged within (ms)" },
  { path: ["delivery", "attempts"], label: "Attempts" },
];

function Editor({
  view,
  onChoose,
  onDeleted,
}: {
  view: ProfileView;
  onChoose: (slug: string) => void;
  onDeleted: (slug: string) => void;
}) {
  const { profile, version } = view;
  const saved = stringify(profile);
  const [text, setText] = useState(saved);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [messages, setMessages] = useState("");
  const [channels, setChannels] = useState<readonly ChannelDescription[]>([channelNamed("one", "relay")]);
  const queries = useQueryClient();
  const draft = readDescription<Profile>(text);
  const isChanged = text !== saved;
  const save = async (next: Profile) => {
    setTrouble(null);
    try {
      await client.saveProfile(next, next.slug === profile.slug ? version : 0);
      await queries.invalidateQueries({ queryKey: ["profiles"] });
      onChoose(next.slug);
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  const remove = async (slug: string) => {
    setTrouble(null);
    try {
      await client.deleteProfile(slug, version);
      onDeleted(slug);
      await queries.invalidateQueries({ queryKey: ["profiles"] });
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1.3fr)] gap-x-8 max-[1023px]:grid-cols-1">
      <section aria-label="Description">
        <SectionTitle>Profile, YAML</SectionTitle>
        <div className="mt-3 mb-4">
          <UsualFields kind="profile" text={text} onChange={setText} fields={FIELDS} />
        </div>
        <DescriptionEditor
          kind="profile"
          label="Profile, YAML"
          text={text}
          onChange={setText}
          site={null}
          check={checkProfile}
          lines={[14, 32]}
          showsChanges={isChanged}
        />
        <Trouble>{trouble}</Trouble>
        <p className="mt-3 flex flex-wrap items-center gap-4">
          <Button
            disabled={!isChanged || "wrong" in draft}
            onClick={() => {
              if (!("wrong" in draft)) void save(draft);
            }}
            className={`${STRONG} disabled:opacity-50`}
          >
            Save profile
          </Button>
          {isChanged && (
            <Button onClick={() => setText(saved)} className={QUIET}>
              Discard changes
            </Button>
          )}
          <Twice
            verb="Delete profile"
            sure={`Delete the profile ${profile.slug}`}
            onSure={() => void remove(profile.slug)}
          />
          <span className="text-note text-soft">
            Version {version}. A profile with another identifier (slug) is saved beside this one.
          </span>
        </p>
        <Versions kind="profile" slug={profile.slug} version={version} />
      </section>
      <section aria-label="Try the profile">
        <SectionTitle>Try the profile (nothing is sent or saved)</SectionTitle>
        <Channels channels={channels} onChange={setChannels} />
        <HeardMessages text={messages} onChange={setMessages} />
        {!("wrong" in draft) && <ProfileTrial profile={draft} channels={channels} messages={messagesIn(messages)} />}
      </section>
    </div>
  );
}

function Channels({
  channels,
  onChange,
}: {
  channels: readonly ChannelDescription[];
  onChange: (channels: readonly ChannelDescription[]) => void;
}) {
  const put = (at: number, channel: ChannelDescription) =>
    onChange(channels.map((one, index) => (index === at ? channel : one)));
  return (
    <div className="mt-3 flex flex-wrap items-end gap-3">
      {channels.map((channel, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: rows are told apart by their place alone
        <span key={at} className="flex items-end gap-1">
          <Field className="flex flex-col gap-1">
            <Label className="font-plate text-note">
              {at === 0 ? "Channel" : <span className="sr-only">Channel</span>}
            </Label>
            <Input
              value={channel.slug}
              onChange={(event) => put(at, channelNamed(event.target.value, channel.kind))}
              className={`${FIELD} w-[110px] font-mono text-note`}
            />
          </Field>
          <Select
            aria-label={`Kind of ${channel.slug}`}
            value={channel.kind}
            onChange={(event) => put(at, channelNamed(channel.slug, event.target.value as KindName))}
            className={FIELD}
          >
            {kindNames.map((kind) => (
              <option key={kind}>{kind}</option>
            ))}
          </Select>
        </span>
      ))}
      <Button
        onClick={() => onChange([...channels, channelNamed(`channel-${channels.length + 1}`, "relay")])}
        className={QUIET}
      >
        Add channel
      </Button>
      {channels.length > 1 && (
        <Button onClick={() => onChange(channels.slice(0, -1))} className={QUIET}>
          Delete channel
        </Button>
      )}
    </div>
  );
}

function channelNamed(slug: string, kind: KindName): ChannelDescription {
  return { slug, name: slug === "" ? "channel" : slug, kind };
}

/** One a line: topic, a space, the payload; `hex:` before bytes. */
function messagesIn(text: string): MessageBody[] {
  const lines = text.split("\n").filter((line) => line.trim() !== "");
  return lines.slice(0, 200).map((line) => {
    const cut = line.indexOf("\t") >= 0 ? line.indexOf("\t") : line.indexOf(" ");
    const [topic, payload] = cut < 0 ? [line, ""] : [line.slice(0, cut), line.slice(cut + 1)];
    return payload.startsWith("hex:") ? { topic, hex: payload.slice(4).trim() } : { topic, text: payload };
  });
}
