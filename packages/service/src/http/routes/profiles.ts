/** Profiles: listed, tried, saved and deleted. They are the whole team's. */
import type { ProfileTrialView, ProfileView } from "@bold-relay/api";
import { patchSchema, profileSchema, profileTrialSchema } from "@bold-relay/api/schema";
import { mergePatch, nearestProfiles, type Profile, RelayError, tryProfile } from "@bold-relay/core";
import type { Router } from "express";
import { type Admitted, requireTeam } from "../../auth/caller.ts";
import { checked, readBody } from "../../http-exchange/body.ts";
import { versionIfSent, versionOf } from "../../http-exchange/version.ts";
import { findProfiles } from "../../store/model.ts";
import type { HttpDeps } from "../deps.ts";

export function profileRoutes({
  guard,
  pool,
  board,
  modelReload,
  credentials,
}: Pick<HttpDeps, "guard" | "pool" | "board" | "modelReload" | "credentials">): Router {
  return guard.routes({
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
      requireTeam(caller, CHANGE);
      const profile = await readBody(req, profileSchema);
      if (profile.slug !== req.params.profile)
        throw new RelayError("bad-request", {
          why: `The profile is ${req.params.profile} in the address and ${profile.slug} in the body`,
        });
      res.json({ version: await save(profile, versionIfSent(req), caller) });
    },

    "PATCH /profiles/:profile": async (req, res, caller) => {
      requireTeam(caller, CHANGE);
      const { profile: slug = "" } = req.params;
      const patch = await readBody(req, patchSchema);
      const known = (await findProfiles(pool)).get(slug);
      if (!known) throw new RelayError("not-found", { what: `The profile ${slug}` });
      const profile = checked(profileSchema, mergePatch(known.profile, { ...patch, slug }));
      res.json({ version: await save(profile, versionOf(req) ?? known.version, caller) });
    },

    "DELETE /profiles/:profile": async (req, res, caller) => {
      requireTeam(caller, "delete a profile, which every site may use");
      await modelReload.deleteProfile(req.params.profile ?? "", versionIfSent(req), caller);
      res.status(204).end();
    },
  });

  async function save(profile: Profile, version: number | null, caller: Admitted): Promise<number> {
    const saved = await modelReload.saveProfile(profile, version, caller);
    await credentials.refresh();
    return saved;
  }
}

const CHANGE = "change a profile, which every site may use";
