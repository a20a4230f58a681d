/** One device: where it is, what it speaks, and its commissioning, step by step. */
import type { DeviceView } from "@bold-relay/api";
import { Button } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { client, names, useDevices } from "../../api/queries.ts";
import { useNow } from "../../live/use-now.ts";
import { PAGE, QUIET, SectionTitle, ShownOnce, Trouble, Twice } from "../../parts/form.tsx";
import { when } from "../../parts/time.ts";
import { Commissioning } from "./commissioning.tsx";
import { DeviceCare } from "./device-care.tsx";
import { Presence } from "./devices-page.tsx";

export function DevicePage() {
  const { site, device: slug } = useParams();
  const address = `${site}/${slug}`;
  const { data: devices } = useDevices();
  const now = useNow();
  const device = devices?.find((one) => one.address === address);
  if (!devices) return null;
  if (!device) {
    return (
      <div className="px-5 pt-5">
        <h1 className="text-page">There is no device “{address}”</h1>
        <Link to="/devices" className={QUIET}>
          All devices
        </Link>
      </div>
    );
  }
  return (
    <div className={PAGE}>
      <Link to="/devices" className={QUIET}>
        All devices
      </Link>
      <h1 className="text-page">{device.name}</h1>
      <p className="text-soft">
        {device.site.name}, {device.room.name}, <Presence device={device} now={now} />. {device.profile.name}.
      </p>
      <DeviceCare device={device} />
      <Channels device={device} />
      <Access device={device} />
      <Commissioning address={address} now={now} />
    </div>
  );
}

function Channels({ device: { channels } }: { device: DeviceView }) {
  return (
    <section aria-label="Channels">
      <SectionTitle>Channels and topics</SectionTitle>
      <ul>
        {channels.map(({ address, name, kind, index, topics }) => (
          <li
            key={address}
            className="grid grid-cols-[40px_220px_minmax(0,1fr)] gap-x-4 border-hairline border-b py-2 max-md:grid-cols-[40px_minmax(0,1fr)]"
          >
            <span className="text-right text-note text-soft">{index}</span>
            <span>
              <span className="font-medium">{name}</span> <span className="text-note text-soft">{kind}</span>
            </span>
            <span className="min-w-0 break-all font-mono text-note text-soft max-md:col-start-2">
              {[
                topics.do && `→ ${topics.do}`,
                topics.ask && `? ${topics.ask}`,
                topics.done && `← ${topics.done}`,
                topics.is && `← ${topics.is}`,
              ]
                .filter((topic) => topic !== null)
                .map((topic) => (
                  <span key={topic} className="block">
                    {topic}
                  </span>
                ))}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What it shows at the broker. The service makes it, if it may. */
function Access({ device: { address, users } }: { device: DeviceView }) {
  const queries = useQueryClient();
  const [made, setMade] = useState<{ username: string; password: string } | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const act = async (work: Promise<unknown>) => {
    setTrouble(null);
    await work.catch((error: Error) => setTrouble(error.message));
    await queries.invalidateQueries({ queryKey: names.devices });
  };
  return (
    <section aria-label="Access to the broker">
      <SectionTitle>Access to the broker</SectionTitle>
      <ul>
        {users.map(({ username, madeAt, retiresAt }) => (
          <li key={username} className="flex flex-wrap items-baseline gap-x-4 border-hairline border-b py-2">
            <span className="font-mono text-note">{username}</span>
            <span className="text-note text-soft">
              made {when.dateTime(madeAt)}
              {retiresAt !== null && `, valid until ${when.dateTime(retiresAt)}`}
            </span>
          </li>
        ))}
      </ul>
      {users.length === 0 && (
        <p className="mt-3 text-soft">
          No broker user yet. A broker user of a device may use the topics of that device only.
        </p>
      )}
      <Trouble>{trouble}</Trouble>
      <p className="mt-3 flex flex-wrap items-center gap-4">
        <Button
          onClick={() => void act(client.makeCredentials(address, users.length > 0 ? 24 : 0).then(setMade))}
          className={QUIET}
        >
          {users.length > 0 ? "Create another user, with one day of overlap" : "Create broker user"}
        </Button>
        {users.length > 0 && (
          <Twice
            verb="Revoke access"
            sure="Revoke all users and disconnect the device"
            onSure={() => void act(client.revokeCredentials(address))}
          />
        )}
      </p>
      {made && (
        <ShownOnce
          what={`The password of ${made.username}, which is also its client id`}
          secret={made.password}
          onClose={() => setMade(null)}
        />
      )}
    </section>
  );
}
