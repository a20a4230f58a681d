/** Calls about devices: credentials, commissioning, profiles, the wire. */

import type { Profile } from "@bold-relay/core";
import type { PublishBody, StepAnswerBody, WireQuery } from "../ask.ts";
import type { WireEvent } from "../client-answer.ts";
import type {
  CommissioningView,
  DeviceView,
  IdentifiedView,
  NewCredentialsView,
  ProfileTrialBody,
  ProfileTrialView,
  ProfileView,
} from "../device-view.ts";
import type { Sender } from "./sender.ts";
import { addressPath, ifMatch } from "./words.ts";

export function deviceCalls({ send, json }: Sender) {
  return {
    /**
     * Makes a lamp of a device blink.
     * @param device its address, “site/device”. Rejects with bad-request where it has no lamp.
     */
    identify: (device: string) => json<IdentifiedView>(send("POST", `/api/v1/devices/${device}/identify`, {})),
    /**
     * Gives a device a user of its own at the broker; the password is in the answer, and nowhere else.
     * @param overlapHours how long those that it has still count, 0 to 168
     */
    makeCredentials: (device: string, overlapHours = 0) =>
      json<NewCredentialsView>(send("POST", `/api/v1/devices/${addressPath(device)}/credentials`, { overlapHours })),
    /** Takes a device its user at the broker away: its connection ends at once. */
    revokeCredentials: async (device: string) =>
      void (await send("DELETE", `/api/v1/devices/${addressPath(device)}/credentials`)),
    /** Deletes a profile that no device uses. @param version that was looked at; null: whatever it is */
    deleteProfile: async (slug: string, version: number | null) =>
      void (await send("DELETE", `/api/v1/profiles/${encodeURIComponent(slug)}`, undefined, {
        headers: ifMatch(version),
      })),
    /**
     * Every device that the caller may see, with presence, credentials and what keeps it from being commissioned.
     */
    devices: () => json<DeviceView[]>(send("GET", "/api/v1/devices")),
    /** The run that stands or the last one, then those before it. */
    commissionings: (device: string) =>
      json<CommissioningView[]>(send("GET", `/api/v1/devices/${addressPath(device)}/commissioning`)),
    /** Begins a commissioning run of a device; a run that stands is ended where it is. */
    commission: (device: string) =>
      json<CommissioningView>(send("POST", `/api/v1/devices/${addressPath(device)}/commissioning`, {})),
    /**
     * Begins a step of commissioning (`go`), or says what the person saw. Rejects with in-use while another step
     * runs.
     */
    commissioningStep: (device: string, body: StepAnswerBody) =>
      json<CommissioningView>(send("POST", `/api/v1/devices/${addressPath(device)}/commissioning/step`, body)),
    /** The profiles that ship and those of the team. */
    profiles: () => json<ProfileView[]>(send("GET", "/api/v1/profiles")),
    /** What a device of this profile would be sent, and what its messages would mean. Nothing is sent or kept. */
    tryProfile: (body: ProfileTrialBody) => json<ProfileTrialView>(send("POST", "/api/v1/profiles/try", body)),
    /**
     * Adds or changes a profile of the team. Rejects with in-use while a change would break a device.
     *
     * @param version that it was changed from; 0: it must be new, null: whatever it is
     */
    saveProfile: (profile: Profile, version: number | null) =>
      json<{ version: number }>(
        send("PUT", `/api/v1/profiles/${encodeURIComponent(profile.slug)}`, profile, { headers: ifMatch(version) }),
      ),
    /** Messages of the wire until the signal aborts or the connection ends. */
    async wire({ filter, all = false }: WireQuery, onEvent: (event: WireEvent) => void, signal: AbortSignal) {
      const query = new URLSearchParams({ filter, ...(all ? { all: "true" } : {}) });
      const headers = { accept: "text/event-stream" };
      const { readEvents } = await import("../event-reader.ts");
      return readEvents<WireEvent>(send("GET", `/api/v1/wire?${query}`, undefined, { signal, headers }), onEvent);
    },
    /** Writes one message by hand; it is in the audit. */
    publish: async (body: PublishBody) => void (await send("POST", "/api/v1/wire", body)),
  };
}
