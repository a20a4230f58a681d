/** What is done with a device that stands: changed, replaced, pointed out, labelled, taken out. */
import type { DeviceView } from "@bold-relay/api";
import { type DeviceDescription, deviceOf } from "@bold-relay/core";
import { useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useState } from "react";
import { Link, useLocation } from "wouter";
import { client } from "../../api/client.ts";
import { names } from "../../api/operate.ts";
import { Button } from "../../parts/button.tsx";
import { QUIET, ShownOnce, Trouble, Twice } from "../../parts/form.tsx";
import { type DeviceDraft, draftOf } from "./device-draft.ts";
import { DeviceForm } from "./device-form.tsx";

type Shown = {
  readonly how: "change" | "replace";
  readonly first: DeviceDraft;
  readonly opened: DeviceDescription | null;
};

/** It brings the editor with it. */
const DeviceText = lazy(() => import("./device-text.tsx"));

export function DeviceCare({ device }: { device: DeviceView }) {
  const { address, name, site, users } = device;
  const slug = address.slice(site.slug.length + 1);
  const queries = useQueryClient();
  const [, navigate] = useLocation();
  const [shown, setShown] = useState<Shown | null>(null);
  const [text, setText] = useState<DeviceDescription | null>(null);
  const [told, setTold] = useState<string | null>(null);
  const [made, setMade] = useState<{ username: string; password: string } | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const act = async (work: () => Promise<void>) => {
    setTrouble(null);
    setTold(null);
    await work().catch((error: Error) => setTrouble(error.message));
  };
  const open = (how: Shown["how"]) =>
    act(async () => {
      const { site: described } = await client.site(site.slug);
      const first = draftOf(described, slug);
      setText(null);
      setShown(first && { how, first, opened: deviceOf(described, slug) });
    });
  const openText = () =>
    act(async () => {
      const found = deviceOf((await client.site(site.slug)).site, slug);
      setShown(null);
      setText(found);
    });
  const point = () =>
    act(async () => {
      setTold("A lamp of this device blinks twice …");
      const { name: lamp } = await client.identify(address);
      setTold(`${lamp} has blinked.`);
    });
  const remove = () =>
    act(async () => {
      await client.changeSite(site.slug, { edit: "delete", part: "devices", name: slug }, null);
      await queries.invalidateQueries({ queryKey: names.devices });
      navigate("/devices");
    });
  const saved = ({ how }: Shown) =>
    act(async () => {
      setShown(null);
      if (how === "change") return setTold("Saved. The change is in effect.");
      setTold("Replaced. Channels, routes and history are kept. Commission the device before anybody relies on it.");
      // The dead board's access must not stay with whoever finds it.
      if (users.length > 0) setMade(await client.makeCredentials(address, 0));
      await queries.invalidateQueries({ queryKey: names.devices });
    });
  return (
    <>
      <p className="mt-3 flex flex-wrap gap-x-5 gap-y-2">
        <Button onClick={() => void point()} className={QUIET}>
          Identify
        </Button>
        <Button onClick={() => void open("change")} className={QUIET}>
          Edit device
        </Button>
        <Button onClick={() => void openText()} className={QUIET}>
          Edit as YAML
        </Button>
        <Button onClick={() => void open("replace")} className={QUIET}>
          Replace device
        </Button>
        <Link to={`/devices/${address}/labels`} className={QUIET}>
          QR labels
        </Link>
        <Twice verb="Delete device" sure={`Delete the ${name} from ${site.name}`} onSure={() => void remove()} />
      </p>
      {told && (
        <p role="status" className="mt-2 text-note">
          {told}
        </p>
      )}
      <Trouble>{trouble}</Trouble>
      {made && (
        <ShownOnce
          what={`The password of ${made.username}, which is also its client id`}
          secret={made.password}
          onClose={() => setMade(null)}
        />
      )}
      {text !== null && (
        <Suspense fallback={null}>
          <DeviceText
            site={site.slug}
            slug={slug}
            name={name}
            first={text}
            onSaved={() => {
              setText(null);
              setTold("Saved. The change is in effect.");
            }}
            onLeave={() => setText(null)}
          />
        </Suspense>
      )}
      {shown && (
        <DeviceForm
          key={shown.how}
          title={shown.how === "change" ? `Edit the ${name}` : `Replacement of the ${name}`}
          verb={shown.how === "change" ? "Save" : "Replace device"}
          first={shown.first}
          stands={shown.opened}
          onSaved={() => void saved(shown)}
          onLeave={() => setShown(null)}
        />
      )}
    </>
  );
}
