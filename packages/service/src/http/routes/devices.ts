/** Devices: what there is, their users at the broker, and which one is it. */
import type { DeviceView, IdentifiedView, NewCredentialsView, PlanCheckView } from "@bold-relay/api";
import { newCredentialsSchema, partSchema } from "@bold-relay/api/schema";
import {
  accessOf,
  type ChannelEntry,
  devicePresence,
  presenceSource,
  RelayError,
  translatedFindings,
} from "@bold-relay/core";
import { type Plan, planMistakes } from "@bold-relay/translators";
import type { Router } from "express";
import { type Admitted, requireSite } from "../../auth/caller.ts";
import { readBody } from "../../http-exchange/body.ts";
import { deviceBroker } from "../../platform/config/device-broker.ts";
import { limits } from "../../platform/config/limits.ts";
import { identify } from "../../requests/identify.ts";
import { findLastCommissionings } from "../../store/commissionings.ts";
import type { DeviceUser } from "../../store/device-users.ts";
import type { HttpDeps } from "../deps.ts";

export function deviceRoutes({
  guard,
  audit,
  pool,
  board,
  credentials,
  config,
  ask,
}: Pick<HttpDeps, "guard" | "audit" | "pool" | "board" | "credentials" | "config" | "ask">): Router {
  return guard.routes({
    "GET /devices": async (_req, res, { sites }) => {
      const [proofs, users] = await Promise.all([findLastCommissionings(pool), credentials.users()]);
      const seen = board.snapshot.channels.filter(({ site }) => sites === null || sites.includes(site.slug));
      const devices = new Set(seen.map(({ device }) => device.address));
      res.json(
        [...devices].flatMap((address) => {
          const channels = board.channelsOf(address);
          const id = channels[0]?.device.id;
          return id === undefined ? [] : deviceView(channels, board.presenceOf(address), proofs.get(id) ?? null, users);
        }),
      );
    },

    /** A user for the device at the broker, shown only once; those before end, after the overlap. */
    "POST /devices/:site/:device/credentials": async (req, res, caller) => {
      const device = deviceOf(req.params, caller);
      const { overlapHours = 0 } = await readBody(req, newCredentialsSchema);
      const made = await guard.carryOut(caller, async (db) => {
        const user = await credentials.make(device, overlapHours * 3_600_000);
        const after = { username: user.username, overlapHours };
        await audit.record({ actor: caller, action: "device user created", object: device, after }, db);
        return user;
      });
      res.status(201).json({ ...made, broker: await deviceBroker(config) } satisfies NewCredentialsView);
    },

    /** Every user of the device ends at once. */
    "DELETE /devices/:site/:device/credentials": async (req, res, caller) => {
      const device = deviceOf(req.params, caller);
      await guard.carryOut(caller, async (db) => {
        await credentials.revoke(device);
        await audit.record({ actor: caller, action: "device users revoked", object: device }, db);
      });
      res.status(204).end();
    },

    /** A translator's plan stays with the translator: nothing of it is kept or written to a log. */
    "POST /translators/check": async (req, res, { sites }) => {
      const plan = await readBody(req, partSchema, { bytes: limits.planBytes, withinMs: limits.siteWithinMs });
      const mistakes = planMistakes(plan).map((one) => ({ level: "wrong" as const, ...one }));
      const devices = mistakes.length > 0 ? [] : (plan as unknown as Plan).devices;
      const findings = [...mistakes, ...translatedFindings(devices, board.snapshot, sites)];
      res.json({ devices: devices.length, findings } satisfies PlanCheckView);
    },

    /** Which one is it? A lamp of the device blinks. */
    "POST /devices/:site/:device/identify": async (req, res, caller) => {
      const channels = board.channelsOf(deviceOf(req.params, caller));
      res.json((await identify(channels, caller.asker, ask)) satisfies IdentifiedView);
    },
  });

  function deviceOf({ site = "", device = "" }: Record<string, string>, caller: Admitted): string {
    requireSite(caller, site);
    const address = `${site}/${device}`;
    if (board.channelsOf(address).length === 0) throw new RelayError("not-found", { what: `The device ${address}` });
    return address;
  }
}

function deviceView(
  channels: readonly ChannelEntry[],
  presence: { up: boolean; since: number } | null,
  proof: { finishedAt: number; failed: number } | null,
  users: readonly DeviceUser[],
): DeviceView {
  const [first] = channels;
  if (!first) throw new Error("a device without channels");
  const { device, site, room, profile } = first;
  return {
    address: device.address,
    name: device.name,
    site,
    room,
    profile: { slug: profile.slug, name: profile.name },
    presence: devicePresence(presence?.up ?? null, presenceSource(first)),
    access: accessOf(channels),
    users: users.filter((one) => one.device === device.address).map(userView),
    proof: proof && { ...proof, finishedAt: new Date(proof.finishedAt).toISOString() },
    presenceSince: presence ? new Date(presence.since).toISOString() : null,
    channels: channels.map(({ address, name, kind, index, topics }) => ({ address, name, kind, index, topics })),
  };
}

function userView({ username, madeAt, retiresAt }: DeviceUser): DeviceView["users"][number] {
  return {
    username,
    madeAt: new Date(madeAt).toISOString(),
    retiresAt: retiresAt === null ? null : new Date(retiresAt).toISOString(),
  };
}
