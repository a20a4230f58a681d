/** The steps about the broker and the first device. They use what the pages of devices use. */
import { useState } from "react";
import { Link } from "wouter";
import { useBoard, useStatus } from "../../api/board.ts";
import { useDevices, useProfiles } from "../../api/queries.ts";
import { useNow } from "../../live/use-now.ts";
import { QUIET } from "../../parts/form.tsx";
import { Commissioning } from "../devices/commissioning.tsx";
import { DeviceAccess } from "../devices/device-access.tsx";
import { type DeviceDraft, emptyChannel } from "../devices/device-draft.ts";
import { DeviceForm } from "../devices/device-form.tsx";
import { UnassignedDevices } from "../devices/unassigned.tsx";

/** Of the shipped ones, the one whose devices prove everything. */
const USUAL_PROFILE = "new-device";

export function BrokerStep() {
  const { data: status } = useStatus();
  return (
    <>
      <p className="mt-2 text-wrong">{status?.broker.trouble ?? "The service waits for the broker."}</p>
      <p className="mt-1 text-note text-soft">
        Start the broker, or correct its settings and restart the service. On the machine, “bold-relay-server check”
        says what is wrong.
      </p>
    </>
  );
}

export function DeviceStep() {
  const { data: board } = useBoard();
  const { data: profiles } = useProfiles();
  const [draft, setDraft] = useState<DeviceDraft | null>(null);
  if (!board || !profiles) return null;
  const first = draft ?? {
    site: board.sites[0]?.slug ?? "",
    room: "",
    name: "",
    slug: "",
    profile: (profiles.find(({ profile }) => profile.slug === USUAL_PROFILE) ?? profiles[0])?.profile.slug ?? "",
    channels: [emptyChannel()],
  };
  return (
    <>
      <p className="mt-2 text-note text-soft">
        A device is a board with relays, lights or sensors. If it is on the broker already, listen for it. Otherwise
        choose the profile that speaks its topics and payloads. None fits? Describe it from its own messages in{" "}
        <Link to="/devices/profiles" className="text-act underline underline-offset-2">
          Profiles
        </Link>
        .
      </p>
      <UnassignedDevices onTake={setDraft} />
      <DeviceForm
        key={`${first.site} ${first.slug} ${first.profile}`}
        title="New device"
        verb="Add device"
        first={first}
        stands={null}
        onSaved={() => setDraft(null)}
      />
    </>
  );
}

export function AccessStep() {
  const { data: devices } = useDevices();
  const [device] = devices ?? [];
  if (!device) return null;
  return (
    <>
      <p className="mt-2 text-note text-soft">
        Give the {device.name} a broker user of its own, and enter name and password in its settings. This step is done
        when the device is online.
      </p>
      <DeviceAccess device={device} />
    </>
  );
}

export function CommissioningStep() {
  const { data: devices } = useDevices();
  const now = useNow();
  const device = devices?.find(({ presence }) => presence === "online") ?? devices?.[0];
  if (!device) return null;
  return (
    <>
      <Commissioning address={device.address} now={now} />
      <p className="mt-3">
        <Link to={`/devices/${device.address}`} className={QUIET}>
          Show the device
        </Link>
      </p>
    </>
  );
}
