/** A form for one more device. What it would change, and what is wrong about it, is shown before anything is changed. */
import type { ProfileView, SitePlanView } from "@bold-relay/api";
import { type ChannelDescription, type KindName, kindNames, withDevice } from "@bold-relay/core";
import { Button, Field, Input, Label, Select, Textarea } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, names, useBoard, useProfiles } from "../../api/queries.ts";
import { FIELD, QUIET, STRONG, Trouble } from "../../parts/form.tsx";

const LABEL = "font-plate text-note";

export function AddDevice({ onAdded }: { onAdded: () => void }) {
  const { data: board } = useBoard();
  const { data: profiles } = useProfiles();
  const queries = useQueryClient();
  const [plan, setPlan] = useState<SitePlanView | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);

  async function submit(event: FormEvent<HTMLFormElement>): Promise<void> {
    event.preventDefault();
    const load = (event.nativeEvent as SubmitEvent).submitter?.getAttribute("value") === "add";
    const data = new FormData(event.currentTarget);
    setTrouble(null);
    try {
      const { site, version } = await described(data);
      if (!load) return setPlan(await client.checkSite(site));
      await client.saveSite(site, version);
      await queries.invalidateQueries({ queryKey: names.devices });
      onAdded();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  }

  return (
    <form
      aria-label="A new device"
      onSubmit={(event) => void submit(event)}
      onChange={() => setPlan(null)}
      className="mt-4 grid grid-cols-2 gap-x-5 gap-y-3 border-act border-l-[3px] bg-sheet px-4 py-4 max-md:grid-cols-1"
    >
      <Field className="flex flex-col gap-1">
        <Label className={LABEL}>Premises</Label>
        <Select name="site" className={FIELD}>
          {board?.sites.map(({ slug, name }) => (
            <option key={slug} value={slug}>
              {name}
            </option>
          ))}
        </Select>
      </Field>
      <Text name="room" label="Room" hint="Boiler room" />
      <Text name="name" label="What and where it is, in words" hint="relay board beside the boiler" />
      <Text name="slug" label="Its name in topics" hint="boiler-board" />
      <Field className="flex flex-col gap-1">
        <Label className={LABEL}>What it speaks</Label>
        <Select name="profile" className={FIELD}>
          {profiles?.map(({ profile: { slug, name } }) => (
            <option key={slug} value={slug}>
              {name}
            </option>
          ))}
        </Select>
        <ProfileTopics profiles={profiles ?? []} />
      </Field>
      <Field className="flex flex-col gap-1">
        <Label className={LABEL}>Its channels, one a line: name, kind</Label>
        <Textarea
          name="channels"
          required
          rows={4}
          placeholder={"Boiler, relay\nPump, relay, reversed"}
          className="rounded-key border border-soft bg-enclosure px-2.5 py-1.5 font-mono text-note"
        />
        <span className="text-note text-soft">Kinds: {kindNames.join(", ")}</span>
      </Field>
      <div className="col-span-2 max-md:col-span-1">
        {plan && <Plan plan={plan} />}
        <Trouble>{trouble}</Trouble>
        <p className="mt-2 flex items-center gap-4">
          <Button type="submit" value="check" className={QUIET}>
            See what would change
          </Button>
          <Button type="submit" value="add" className={STRONG}>
            Add it
          </Button>
        </p>
      </div>
    </form>
  );
}

function Text({ name, label, hint }: { name: string; label: string; hint: string }) {
  return (
    <Field className="flex flex-col gap-1">
      <Label className={LABEL}>{label}</Label>
      <Input name={name} required maxLength={80} placeholder={hint} className={FIELD} />
    </Field>
  );
}

function ProfileTopics({ profiles }: { profiles: readonly ProfileView[] }) {
  const own = profiles.filter(({ devices }) => devices > 0).length;
  return (
    <span className="text-note text-soft">
      {own} of {profiles.length} in use. More are described as data: bold-relay profile load.
    </span>
  );
}

function Plan({ plan: { changes, findings } }: { plan: SitePlanView }) {
  return (
    <div role="status" className="text-note">
      <ul>
        {changes.map(({ what, name, change }) => (
          <li key={`${what} ${name}`}>
            {change} {what} <span className="font-mono">{name}</span>
          </li>
        ))}
      </ul>
      <ul>
        {findings.map(({ level, at, text }) => (
          <li key={`${at} ${text}`} className={level === "wrong" ? "font-semibold text-wrong" : ""}>
            {level === "wrong" ? "Mistake" : "Doubtful"}: <span className="font-mono">{at}</span> {text}
          </li>
        ))}
      </ul>
      {findings.length === 0 && <p>Nothing speaks against it.</p>}
    </div>
  );
}

/** The site as it would be with the device in it. */
async function described(data: FormData) {
  const text = (name: string) => String(data.get(name) ?? "").trim();
  const { site, version } = await client.site(text("site"));
  const room = site.rooms.find(({ name }) => name.toLowerCase() === text("room").toLowerCase());
  const channels = text("channels")
    .split("\n")
    .filter((line) => line.trim() !== "")
    .map(channelOf);
  const device = { slug: slugOf(text("slug")), name: text("name"), profile: text("profile"), channels };
  const taken = site.rooms.flatMap((one) => one.devices).some((one) => one.slug === device.slug);
  if (taken)
    throw new Error(`${site.name} has a device called ${device.slug} already. Give it another name in topics.`);
  return { site: withDevice(site, room ?? { slug: slugOf(text("room")), name: text("room") }, device), version };
}

/** "Pump, relay, reversed" → a channel. @throws Error that says what is wrong with the line */
function channelOf(line: string): ChannelDescription {
  const [name = "", kind = "", ...more] = line.split(",").map((part) => part.trim());
  if (!kindNames.includes(kind as KindName))
    throw new Error(`“${line.trim()}”: after the name and a comma comes its kind, one of ${kindNames.join(", ")}.`);
  const reversed = more.includes("reversed") ? { reversed: true } : {};
  const unit = more.find((word) => word !== "reversed");
  return { slug: slugOf(name), name, kind: kind as KindName, ...reversed, ...(unit === undefined ? {} : { unit }) };
}

/** "Boiler room" → "boiler-room" */
function slugOf(text: string): string {
  const plain = text
    .normalize("NFKD")
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-");
  return plain.replace(/^-+|-+$/g, "").slice(0, 40);
}
