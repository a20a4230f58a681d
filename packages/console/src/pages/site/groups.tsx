/** The groups of a site: channels that are switched together by one name. */
import { kindOf, type SiteDescription } from "@bold-relay/core";
import { useState } from "react";
import { slugOf } from "../devices/device-draft.ts";
import { ChannelPicker, channelsByRoom } from "./channel-picker.tsx";
import { PartForm, TextField } from "./part-form.tsx";
import { PartList } from "./part-list.tsx";
import { usePartEdit } from "./use-part-edit.ts";

export function Groups({ site }: { site: SiteDescription }) {
  const entries = (site.groups ?? []).map(({ slug, name, channels }) => ({
    id: slug,
    name,
    about: channelNames(site, channels),
  }));
  return (
    <PartList
      site={site}
      part="groups"
      title="Groups"
      empty="No groups. A group switches several channels by one name, like all path lights."
      entries={entries}
      form={(slug, close) => <GroupForm site={site} slug={slug} onClose={close} />}
    />
  );
}

/** The names of channels as people say them. */
export function channelNames(site: SiteDescription, paths: readonly string[]): string {
  const names = new Map(
    channelsByRoom(site).flatMap(({ room, channels }) =>
      channels.map(({ path, name }) => [path, `${name}, ${room.name}`] as const),
    ),
  );
  return paths.map((path) => names.get(path) ?? path).join(" · ");
}

function GroupForm({ site, slug, onClose }: { site: SiteDescription; slug: string | null; onClose: () => void }) {
  const known = site.groups?.find((group) => group.slug === slug);
  const [name, setName] = useState(known?.name ?? "");
  const [given, setGiven] = useState<string | null>(slug);
  const [channels, setChannels] = useState<readonly string[]>(known?.channels ?? []);
  const { plan, trouble, submit } = usePartEdit(
    site,
    ({ groups }) => groups?.find((one) => one.slug === slug),
    onClose,
  );
  const identifier = given ?? slugOf(name);
  const edit = () =>
    ({ edit: "put", part: "groups", name: identifier, fields: { name: name.trim(), channels } }) as const;
  return (
    <PartForm
      title={known ? `Edit ${known.name}` : "New group"}
      verb={known ? "Save" : "Add group"}
      plan={plan}
      trouble={trouble}
      onSubmit={submit(edit)}
      onLeave={onClose}
    >
      <TextField label="Name" hint="All path lights" value={name} onChange={setName} />
      <TextField
        label="Identifier"
        hint="path-lights"
        value={identifier}
        isFixed={known !== undefined}
        onChange={setGiven}
      />
      <ChannelPicker
        site={site}
        chosen={channels}
        onChange={setChannels}
        isOffered={({ kind }) => kindOf(kind).input === false}
      />
    </PartForm>
  );
}
