/** The way from an empty installation to a lamp that answers: each step is done when something proves it. Pure. */
import type { DeviceView, InletView, StatusView } from "@bold-relay/api";

export const STEPS = ["owner", "broker", "site", "device", "access", "commissioning", "inlet"] as const;
type StepName = (typeof STEPS)[number];

export interface SetupFacts {
  /** Who is signed in, and as what. */
  readonly member: { readonly name: string; readonly role: string };
  readonly broker: StatusView["broker"] | null;
  readonly sites: readonly { readonly name: string }[];
  readonly devices: readonly DeviceView[];
  readonly inlets: readonly InletView[];
}

export interface SetupStep {
  readonly name: StepName;
  readonly title: string;
  /** What proves that it is done; null: nothing does. */
  readonly proof: string | null;
}

/**
 * The steps in order. Nothing of them is stored: whoever leaves comes back to the first that is not done.
 *
 * @example setupSteps({ member: { name: "Ines", role: "owner" }, broker: null, sites: [], devices: [], inlets: [] })[0]
 *   // → { name: "owner", title: "Owner", proof: "Ines is signed in as owner." }
 */
export function setupSteps({ member, broker, sites, devices, inlets }: SetupFacts): readonly SetupStep[] {
  const online = devices.find((device) => device.presence === "online");
  const commissioned = devices.find(({ proof }) => proof !== null && proof.failed === 0);
  const used = inlets.find(({ lastAt }) => lastAt !== null);
  const [site, device] = [sites[0], devices[0]];
  return [
    { name: "owner", title: "Owner", proof: `${member.name} is signed in as ${member.role}.` },
    { name: "broker", title: "Broker", proof: broker?.up === true ? brokerProof(broker) : null },
    { name: "site", title: "First site", proof: site ? `${site.name} is a site.` : null },
    { name: "device", title: "First device", proof: device ? deviceProof(device) : null },
    { name: "access", title: "Broker access of the device", proof: online ? `The ${online.name} is online.` : null },
    {
      name: "commissioning",
      title: "Commissioning",
      proof: commissioned ? `The ${commissioned.name} is commissioned.` : null,
    },
    { name: "inlet", title: "First inlet", proof: used ? `A request arrived at the inlet ${used.name}.` : null },
  ];
}

function brokerProof({ roundTripMs }: StatusView["broker"]): string {
  const time = roundTripMs === null ? "" : ` A message to it and back took ${roundTripMs.toFixed(1)} ms.`;
  return `The service is connected to the broker.${time}`;
}

function deviceProof({ name, room, channels }: DeviceView): string {
  return `The ${name} in ${room.name} has ${channels.length} channel${channels.length === 1 ? "" : "s"}.`;
}

/** The first step that nothing proves; null: all are done. */
export function currentStep(steps: readonly SetupStep[]): SetupStep | null {
  return steps.find(({ proof }) => proof === null) ?? null;
}
