/** The broker users of a device: made by the service where it may, shown once, revoked at once. */
import type { DeviceView, NewCredentialsView } from "@bold-relay/api";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client } from "../../api/client.ts";
import { names } from "../../api/operate.ts";
import { Button } from "../../parts/button.tsx";
import { QUIET, ShownOnce, Trouble, Twice } from "../../parts/form.tsx";
import { when } from "../../parts/time.ts";

export function DeviceAccess({ device: { address, users } }: { device: DeviceView }) {
  const queries = useQueryClient();
  const [made, setMade] = useState<NewCredentialsView | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const act = async (work: Promise<unknown>) => {
    setTrouble(null);
    await work.catch((error: Error) => setTrouble(error.message));
    await queries.invalidateQueries({ queryKey: names.devices });
  };
  return (
    <>
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
        <>
          <ShownOnce
            what={`The password of ${made.username}, which is also its client id`}
            secret={made.password}
            onClose={() => setMade(null)}
          />
          {made.broker && <BrokerPlace broker={made.broker} />}
        </>
      )}
    </>
  );
}

/** Where the device connects, and the certificate that it must trust there. */
function BrokerPlace({ broker: { url, ca } }: { broker: NonNullable<NewCredentialsView["broker"]> }) {
  return (
    <p className="border-act border-l-[3px] bg-act-wash px-4 pb-3 text-note">
      Broker: <span className="break-all font-mono">{url}</span>
      {ca !== null && (
        <>
          {". "}
          <a
            href={`data:application/x-pem-file;charset=utf-8,${encodeURIComponent(ca)}`}
            download="broker-ca.pem"
            className="text-act underline underline-offset-2"
          >
            Download its certificate authority
          </a>
        </>
      )}
    </p>
  );
}
