/** The rooms of a site, in the order of the Board. */
import type { SiteDescription } from "@bold-relay/core";
import { useState } from "react";
import { Button } from "../../parts/button.tsx";
import { QUIET } from "../../parts/form.tsx";
import { slugOf } from "../devices/device-draft.ts";
import { PartForm, TextField } from "./part-form.tsx";
import { PartList } from "./part-list.tsx";
import { usePartEdit } from "./use-part-edit.ts";

export function Rooms({ site }: { site: SiteDescription }) {
  const entries = site.rooms.map((room, at) => ({
    id: room.slug,
    name: room.name,
    about: countOf(room.devices.length),
    more: at > 0 ? <MoveUp site={site} room={room.slug} name={room.name} place={at} /> : null,
  }));
  return (
    <PartList
      site={site}
      part="rooms"
      title="Rooms"
      empty="No rooms yet. A device that you add brings its room with it."
      entries={entries}
      form={(slug, close) => <RoomForm site={site} slug={slug} onClose={close} />}
    />
  );
}

function countOf(devices: number): string {
  if (devices === 0) return "no devices";
  return devices === 1 ? "1 device" : `${devices} devices`;
}

function MoveUp({ site, room, name, place }: { site: SiteDescription; room: string; name: string; place: number }) {
  const { change } = usePartEdit(site, () => null);
  return (
    <Button
      onClick={() => void change({ edit: "patch", part: "rooms", name: room, fields: { place } }, false)}
      aria-label={`Move up ${name}`}
      className={QUIET}
    >
      Move up
    </Button>
  );
}

function RoomForm({ site, slug, onClose }: { site: SiteDescription; slug: string | null; onClose: () => void }) {
  const known = site.rooms.find((room) => room.slug === slug);
  const [name, setName] = useState(known?.name ?? "");
  const [given, setGiven] = useState<string | null>(slug);
  const { plan, trouble, submit } = usePartEdit(
    site,
    ({ rooms }) => rooms.find((room) => room.slug === slug)?.name,
    onClose,
  );
  const identifier = given ?? slugOf(name);
  const edit = () =>
    ({ edit: known ? "patch" : "put", part: "rooms", name: identifier, fields: { name: name.trim() } }) as const;
  return (
    <PartForm
      title={known ? `Edit ${known.name}` : "New room"}
      verb={known ? "Save" : "Add room"}
      plan={plan}
      trouble={trouble}
      onSubmit={submit(edit)}
      onLeave={onClose}
    >
      <TextField label="Name" hint="Boiler room" value={name} onChange={setName} />
      <TextField
        label="Identifier"
        hint="boiler-room"
        value={identifier}
        isFixed={known !== undefined}
        onChange={setGiven}
      />
    </PartForm>
  );
}
