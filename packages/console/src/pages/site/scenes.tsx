/** The scenes of a site: what several channels become by one name; written, or captured from what is on now. */
import { type Capture, captureScene, kindOf, type SceneDescription, type SiteDescription } from "@bold-relay/core";
import { Input, Select } from "@headlessui/react";
import { useState } from "react";
import { client } from "../../api/client.ts";
import { Button } from "../../parts/button.tsx";
import { FIELD, QUIET } from "../../parts/form.tsx";
import { slugOf } from "../devices/device-draft.ts";
import { channelsByRoom, type PlacedChannel } from "./channel-picker.tsx";
import { channelNames } from "./groups.tsx";
import { PartForm, TextField } from "./part-form.tsx";
import { PartList } from "./part-list.tsx";
import { usePartEdit } from "./use-part-edit.ts";

type Set = SceneDescription["sets"][number];

export function Scenes({ site }: { site: SiteDescription }) {
  const entries = (site.scenes ?? []).map(({ slug, name, sets }) => ({
    id: slug,
    name,
    about: sets.map((set) => `${channelNames(site, [set.channel])} → ${setWords(set)}`).join(" · "),
  }));
  return (
    <PartList
      site={site}
      part="scenes"
      title="Scenes"
      empty="No scenes. A scene sets several channels by one name, like evening."
      entries={entries}
      form={(slug, close) => <SceneForm site={site} slug={slug} onClose={close} />}
    />
  );
}

function setWords({ action, value }: Set): string {
  return value === undefined ? action : action === "level" ? `${value} %` : String(value);
}

function SceneForm({ site, slug, onClose }: { site: SiteDescription; slug: string | null; onClose: () => void }) {
  const known = site.scenes?.find((scene) => scene.slug === slug);
  const [name, setName] = useState(known?.name ?? "");
  const [given, setGiven] = useState<string | null>(slug);
  const [sets, setSets] = useState<readonly Set[]>(known?.sets ?? []);
  const [left, setLeft] = useState<Capture["left"]>([]);
  const { plan, trouble, submit } = usePartEdit(
    site,
    ({ scenes }) => scenes?.find((one) => one.slug === slug),
    onClose,
  );
  const identifier = given ?? slugOf(name);
  const edit = () => ({ edit: "put", part: "scenes", name: identifier, fields: { name: name.trim(), sets } }) as const;
  const capture = async () => {
    const board = await client.board();
    const channels = board.sites.find((one) => one.slug === site.slug)?.channels ?? [];
    const captured = captureScene(
      channels.map(({ address, kind, observed }) => ({
        channel: address.split("/").slice(1).join("/"),
        kind,
        state: observed === null || observed.stale !== null ? null : observed.value,
      })),
    );
    setSets(captured.sets);
    setLeft(captured.left.filter(({ why }) => why !== "it is an input"));
  };
  return (
    <PartForm
      title={known ? `Edit ${known.name}` : "New scene"}
      verb={known ? "Save" : "Add scene"}
      plan={plan}
      trouble={trouble}
      onSubmit={submit(edit)}
      onLeave={onClose}
    >
      <TextField label="Name" hint="Evening" value={name} onChange={setName} />
      <TextField
        label="Identifier"
        hint="evening"
        value={identifier}
        isFixed={known !== undefined}
        onChange={setGiven}
      />
      <p className="col-span-2 flex flex-wrap items-baseline gap-x-5 max-md:col-span-1">
        <Button onClick={() => void capture()} className={QUIET}>
          Capture what is on now
        </Button>
        {left.length > 0 && (
          <span role="status" className="text-note text-soft">
            Left out: {left.map(({ channel, why }) => `${channelNames(site, [channel])}, ${why}`).join(" · ")}.
          </span>
        )}
      </p>
      <Settings site={site} sets={sets} onChange={setSets} />
    </PartForm>
  );
}

function Settings({
  site,
  sets,
  onChange,
}: {
  site: SiteDescription;
  sets: readonly Set[];
  onChange: (sets: readonly Set[]) => void;
}) {
  const put = (channel: string, set: Set | null) => {
    const others = sets.filter((one) => one.channel !== channel);
    onChange(
      set === null
        ? others
        : sets.some((one) => one.channel === channel)
          ? sets.map((one) => (one.channel === channel ? set : one))
          : [...others, set],
    );
  };
  return (
    <fieldset className="col-span-2 max-md:col-span-1">
      <legend className="font-plate text-note">What each channel becomes</legend>
      <div className="mt-1.5 grid grid-cols-[repeat(auto-fill,minmax(300px,1fr))] gap-x-6">
        {channelsByRoom(site, ({ kind }) => kindOf(kind).input === false).map(({ room, channels }) => (
          <div key={room.slug} className="mb-2">
            <p className="text-note text-soft">{room.name}</p>
            {channels.map((one) => (
              <Setting
                key={one.path}
                room={room.name}
                placed={one}
                set={sets.find(({ channel }) => channel === one.path) ?? null}
                onChange={(set) => put(one.path, set)}
              />
            ))}
          </div>
        ))}
      </div>
    </fieldset>
  );
}

const STAYS = "";

interface SettingProps {
  readonly room: string;
  readonly placed: PlacedChannel;
  readonly set: Set | null;
  readonly onChange: (set: Set | null) => void;
}

function Setting({ room, placed: { path, name, channel }, set, onChange }: SettingProps) {
  const { actions, range } = kindOf(channel.kind);
  const needsValue = (action: string) => ["level", "colour", "pattern"].includes(actions[action]?.asks ?? "");
  const choose = (action: string) =>
    onChange(
      action === STAYS
        ? null
        : { channel: path, action, ...(needsValue(action) ? { value: range ? 50 : "#ffffff" } : {}) },
    );
  // What depends on how it was before is no scene: it would be another one each time.
  const absolute = Object.entries(actions).filter(([, { asks }]) =>
    ["to", "level", "colour", "pattern"].includes(asks),
  );
  return (
    <span className="mt-1 flex items-center gap-2">
      <span className="min-w-0 flex-1 truncate text-note">{name}</span>
      <Select
        aria-label={`${name}, ${room}`}
        value={set?.action ?? STAYS}
        onChange={(event) => choose(event.target.value)}
        className={`${FIELD} text-note`}
      >
        <option value={STAYS}>stays as it is</option>
        {absolute.map(([action]) => (
          <option key={action}>{action}</option>
        ))}
      </Select>
      <Input
        aria-label={`Value of ${name}, ${room}`}
        value={set?.value === undefined ? "" : String(set.value)}
        disabled={!set || !needsValue(set.action)}
        onChange={(event) =>
          set &&
          onChange({
            ...set,
            value: range && /^-?\d+$/.test(event.target.value) ? Number(event.target.value) : event.target.value,
          })
        }
        className={`${FIELD} w-[84px] text-note disabled:invisible`}
      />
    </span>
  );
}
