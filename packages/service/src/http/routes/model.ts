/** What sites are made of: descriptions checked, compared and taken on; devices and profiles. */
import type { IncomingMessage } from "node:http";
import type {
  DeviceView,
  IdentifiedView,
  NewCredentialsView,
  ProfileTrialView,
  ProfileView,
  SiteDescriptionView,
  SitePlanView,
} from "@bold-relay/api";
import { newCredentialsSchema, profileSchema, profileTrialSchema } from "@bold-relay/api/schema";
import { accessOf, type ChannelEntry, nearestProfiles, RelayError, tryProfile } from "@bold-relay/core";
import type { Router } from "express";
import { type Admitted, requireSite, requireTeam } from "../../auth/caller.ts";
import { readBody, readText, requireJson } from "../../http-exchange/body.ts";
import { versionOf } from "../../http-exchange/version.ts";
import type { SitePlan } from "../../model/check-site.ts";
import { deviceBroker } from "../../platform/config/device-broker.ts";
import { limits } from "../../platform/config/limits.ts";
import { identify } from "../../requests/identify.ts";
import { findLastCommissionings } from "../../store/commissionings.ts";
import type { DeviceUser } from "../../store/device-users.ts";
import { findProfiles, findSite } from "../../store/model.ts";
import type { HttpDeps } from "../deps.ts";

export function modelRoutes({
  guard,
  audit,
  pool,
  board,
  modelReload,
  credentials,
  config,
  ask,
}: Pick<HttpDeps, "guard" | "audit" | "pool" | "board" | "modelReload" | "credentials" | "config" | "ask">): Router {
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
      const made = await credentials.make(device, overlapHours * 3_600_000);
      const after = { username: made.username, overlapHours };
      await audit.record({ actor: caller, action: "device user created", object: device, after });
      res.status(201).json({ ...made, broker: await deviceBroker(config) } satisfies NewCredentialsView);
    },

    /** Every user of the device ends at once. */
    "DELETE /devices/:site/:device/credentials": async (req, res, caller) => {
      const device = deviceOf(req.params, caller);
      await credentials.revoke(device);
      await audit.record({ actor: caller, action: "device users revoked", object: device });
      res.status(204).end();
    },

    /** Which one is it? A lamp of the device blinks. */
    "POST /devices/:site/:device/identify": async (req, res, caller) => {
      const channels = board.channelsOf(deviceOf(req.params, caller));
      res.json((await identify(channels, caller.asker, ask)) satisfies IdentifiedView);
    },

    "GET /profiles": async (_req, res) => {
      const devices = new Map(board.snapshot.channels.map((one) => [one.device.address, one.profile.slug]));
      const used = [...devices.values()];
      const profiles = [...(await findProfiles(pool)).values()];
      const views = profiles.map((one) => ({
        ...one,
        devices: used.filter((slug) => slug === one.profile.slug).length,
      }));
      res.json(views satisfies ProfileView[]);
    },

    /** Nothing is sent or saved: a profile is tried as it stands, with what was heard. */
    "POST /profiles/try": async (req, res) => {
      const { profile, site = "site", device, messages = [] } = await readBody(req, profileTrialSchema);
      const known = [...(await findProfiles(pool)).values()].map((one) => one.profile);
      const tried = typeof profile === "string" ? known.find(({ slug }) => slug === profile) : profile;
      if (!tried) throw new RelayError("not-found", { what: `The profile ${String(profile)}` });
      const heard = messages.map(({ topic, text, hex, retained = false }) => {
        const payload = hex === undefined ? Buffer.from(text ?? "") : Buffer.from(hex.replace(/\s/g, ""), "hex");
        return { topic, payload, retained };
      });
      const trial = tryProfile(tried, site, device, heard);
      res.json({ ...trial, nearest: nearestProfiles(known, heard).slice(0, 5) } satisfies ProfileTrialView);
    },

    /** Profiles are the whole team's: a change of one reaches every site. */
    "PUT /profiles/:profile": async (req, res, caller) => {
      requireTeam(caller, "change a profile, which every site may use");
      const profile = await readBody(req, profileSchema);
      requireSameSlug("profile", req.params.profile, profile.slug);
      const version = await modelReload.saveProfile(profile, caller);
      await credentials.refresh();
      res.json({ version });
    },

    "DELETE /profiles/:profile": async (req, res, caller) => {
      requireTeam(caller, "delete a profile, which every site may use");
      await modelReload.deleteProfile(req.params.profile ?? "", caller);
      res.status(204).end();
    },

    /** The site with everything in it. Inlets and notifications of the site have to go first. */
    "DELETE /sites/:site": async (req, res, caller) => {
      const slug = req.params.site ?? "";
      requireSite(caller, slug);
      requireTeam(caller, "delete a site");
      await modelReload.deleteSite(slug, versionOf(req), caller);
      await credentials.refresh();
      res.status(204).end();
    },

    "GET /sites/:site/description": async (req, res, caller) => {
      const found = await siteOf(req.params.site ?? "", caller);
      res.setHeader("etag", `"${found.version}"`);
      res.json(found satisfies SiteDescriptionView);
    },

    "POST /sites/:site/check": async (req, res, caller) => {
      const { slug, text } = await describedSite(req, req.params.site, caller);
      res.json(planView(await modelReload.plan(slug, text)));
    },

    "PUT /sites/:site/description": async (req, res, caller) => {
      const { slug, text } = await describedSite(req, req.params.site, caller);
      const plan = await modelReload.saveSite(slug, text, versionOf(req), caller);
      await credentials.refresh();
      res.setHeader("etag", `"${plan.version}"`);
      res.json(planView(plan));
    },
  });

  function deviceOf({ site = "", device = "" }: Record<string, string>, caller: Admitted): string {
    requireSite(caller, site);
    const address = `${site}/${device}`;
    if (board.channelsOf(address).length === 0) throw new RelayError("not-found", { what: `The device ${address}` });
    return address;
  }

  async function siteOf(slug: string, caller: Admitted) {
    requireSite(caller, slug);
    const found = await findSite(pool, slug);
    if (!found) throw new RelayError("not-found", { what: `The site ${slug}` });
    return found;
  }
}

/** Only the text: a big one is read where it holds nobody up. */
async function describedSite(
  req: IncomingMessage,
  slug = "",
  caller: Admitted,
): Promise<{ readonly slug: string; readonly text: string }> {
  // Whoever builds at some sites may change those, not make others.
  requireSite(caller, slug);
  requireJson(req);
  return { slug, text: await readText(req, { bytes: limits.siteBytes, withinMs: limits.siteWithinMs }) };
}

function requireSameSlug(what: string, inAddress: string | undefined, inBody: string): void {
  if (inAddress === inBody) return;
  throw new RelayError("bad-request", { why: `The ${what} is ${inAddress} in the address and ${inBody} in the body` });
}

function planView({ version, changes, findings }: SitePlan): SitePlanView {
  return { version, changes: [...changes], findings: [...findings] };
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
    online: presence?.up ?? null,
    access: accessOf(channels),
    users: users.filter((one) => one.device === device.address).map(userView),
    proof: proof && { ...proof, finishedAt: new Date(proof.finishedAt).toISOString() },
    onlineSince: presence ? new Date(presence.since).toISOString() : null,
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
