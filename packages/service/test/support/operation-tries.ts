/** A valid call of each operation, on something of one's own site, of another, or of the whole team: for tests that walk all of them. */
import type { RouteName } from "../../src/http/permissions.ts";
import type { Neighbours } from "./neighbours.ts";
import { poll } from "./until.ts";

export type Place = "own" | "other" | "team";

export interface Call {
  readonly path: string;
  readonly body?: unknown;
}

/** What an operation is tried on: something of this place, made anew where trying may end it. */
export type Try = (place: Place) => Promise<Call> | Call;

/** @param near asked for once a call is made: they are there then */
export function operationTries(near: () => Neighbours) {
  let serial = 0;
  const siteOf = (place: Place) => (place === "own" ? near().own : place === "other" ? near().other : null);
  /** A board that is there on both sites. */
  const deviceOf = (place: Place) => (place === "own" ? `${near().own}/dunlin` : `${near().other}/plover`);
  const channelOf = (place: Place) => (place === "own" ? `${near().own}/dunlin/porch` : `${near().other}/plover/heat`);
  const fresh = (what: string) => {
    serial += 1;
    return `${what}-${serial}`;
  };

  async function inletAt(place: Place): Promise<string> {
    const slug = fresh("inlet");
    await near().world.client.saveInlet({ slug, name: slug, kind: "hook", site: siteOf(place) }, 0);
    return slug;
  }

  async function notificationAt(place: Place): Promise<string> {
    const slug = fresh("notification");
    const to = { topic: `${siteOf(place) ?? "team"}/told/${slug}` };
    await near().world.client.saveNotification({ slug, name: slug, site: siteOf(place), on: { changes: true }, to }, 0);
    return slug;
  }

  async function requestAt(place: Place): Promise<string> {
    return (await near().world.client.ask({ target: channelOf(place), action: "on" })).id;
  }

  async function roomAt(place: Place): Promise<string> {
    const name = fresh("room");
    const edit = { edit: "put", part: "rooms", name, fields: { name } } as const;
    await near().world.client.changeSite(siteOf(place) ?? near().own, edit, null);
    return name;
  }

  async function linkAt(place: Place): Promise<Call> {
    const slug = await inletAt(place);
    await near().world.client.makeSecret(slug);
    const { id } = await near().world.client.makeLink(slug, { phrase: `${channelOf(place)} on` });
    return { path: `/inlets/${slug}/links/${id}` };
  }

  async function described(place: Place): Promise<Call> {
    const { site } = await near().world.client.site(siteOf(place) ?? near().own);
    return { path: `/sites/${site.slug}/description`, body: site };
  }

  /** A key of an inlet that expires soon: one alert for each place, which noting does not end. */
  const alerts = new Map<Place, Promise<string>>();

  async function makeAlert(place: Place): Promise<string> {
    const slug = await inletAt(place);
    await near().world.client.addKey({ name: "short", inlet: slug, expiresInDays: 3 });
    const key = (await near().world.client.keys()).find((one) => one.inlet === slug);
    const subject = String(key?.id);
    await poll(
      () => near().world.client.alerts(true),
      (all) => all.some((one) => one.kind === "key-expiring" && one.subject === subject),
    );
    return subject;
  }

  function alertAt(place: Place): Promise<string> {
    const known = alerts.get(place) ?? makeAlert(place);
    alerts.set(place, known);
    return known;
  }

  const device = (rest: string, body?: unknown) => (place: Place) => ({
    path: `/devices/${deviceOf(place)}${rest}`,
    body,
  });
  const inlet = (rest: string, body?: unknown) => async (place: Place) => ({
    path: `/inlets/${await inletAt(place)}${rest}`,
    body,
  });

  /** What belongs to a place. Operations that are about everything at once stand in the list below. */
  const ofPlace: Partial<Record<RouteName, Try>> = {
    "POST /requests": (place) => ({ path: "/requests", body: { target: channelOf(place), action: "on" } }),
    "POST /requests/rehearse": (place) => ({
      path: "/requests/rehearse",
      body: { target: channelOf(place), action: "on" },
    }),
    "GET /requests/:id": async (place) => ({ path: `/requests/${await requestAt(place)}` }),
    "GET /requests/:id/trace": async (place) => ({ path: `/requests/${await requestAt(place)}/trace` }),
    "POST /requests/:id/cancel": async (place) => ({
      path: `/requests/${await requestAt(place)}/cancel`,
      body: { reason: "not needed" },
    }),
    "GET /channels/:site/:device/:channel/history": (place) => ({ path: `/channels/${channelOf(place)}/history` }),
    "GET /channels/:site/:device/:channel/trend": (place) => ({ path: `/channels/${channelOf(place)}/history` }),
    "POST /lockouts": async (place) => {
      await near().world.pool.query("update lockout set released_at = now() where released_at is null");
      await near().world.restart();
      return { path: "/lockouts", body: { target: channelOf(place) } };
    },
    "GET /devices/:site/:device/commissioning": device("/commissioning"),
    "POST /devices/:site/:device/commissioning": device("/commissioning", {}),
    "POST /devices/:site/:device/commissioning/step": device("/commissioning/step", {
      step: "presence",
      answer: "skip",
    }),
    "POST /devices/:site/:device/identify": device("/identify", {}),
    "POST /devices/:site/:device/credentials": device("/credentials", {}),
    "DELETE /devices/:site/:device/credentials": device("/credentials"),
    "GET /sites/:site/description": async (place) => ({ path: (await described(place)).path }),
    "POST /sites/:site/check": async (place) => {
      const { body } = await described(place);
      return { path: `/sites/${siteOf(place) ?? near().own}/check`, body };
    },
    "PUT /sites/:site/description": described,
    "PATCH /sites/:site": (place) => ({ path: `/sites/${siteOf(place)}`, body: { name: fresh("Site") } }),
    "PUT /sites/:site/:part/:name": (place) => ({
      path: `/sites/${siteOf(place)}/groups/${fresh("group")}`,
      body: { name: fresh("Group"), channels: [channelOf(place).split("/").slice(1).join("/")] },
    }),
    "PATCH /sites/:site/:part/:name": (place) => ({
      path: `/sites/${deviceOf(place).replace("/", "/devices/")}`,
      body: { name: fresh("board") },
    }),
    "DELETE /sites/:site/:part/:name": async (place) => ({
      path: `/sites/${siteOf(place)}/rooms/${await roomAt(place)}`,
    }),
    "PUT /sites/:site/channels/:device/:channel": (place) => ({
      path: `/sites/${channelOf(place).replace("/", "/channels/")}`,
      body: { name: fresh("Lamp"), kind: place === "own" ? "light" : "relay" },
    }),
    "PATCH /sites/:site/channels/:device/:channel": (place) => ({
      path: `/sites/${channelOf(place).replace("/", "/channels/")}`,
      body: { name: fresh("Lamp") },
    }),
    "DELETE /sites/:site/channels/:device/:channel": async (place) => {
      const slug = fresh("spare");
      const fields = { name: slug, kind: "relay" };
      const name = `${deviceOf(place).split("/")[1]}/${slug}`;
      await near().world.client.changeSite(
        siteOf(place) ?? near().own,
        { edit: "put", part: "channels", name, fields },
        null,
      );
      return { path: `/sites/${siteOf(place)}/channels/${name}` };
    },
    "POST /descriptions/:kind/:slug/check": async (place) =>
      place === "team"
        ? { path: "/descriptions/inlet/new/check", body: { slug: fresh("inlet"), name: "x", kind: "hook", site: null } }
        : { path: `/descriptions/site/${siteOf(place)}/check`, body: (await described(place)).body },
    "GET /descriptions/:kind/:slug/versions": async (place) =>
      place === "team"
        ? { path: `/descriptions/inlet/${await inletAt(place)}/versions` }
        : { path: `/descriptions/site/${siteOf(place)}/versions` },
    "GET /descriptions/:kind/:slug/versions/:version": async (place) => ({
      path: `/descriptions/inlet/${await inletAt(place)}/versions/1`,
    }),
    "GET /wire": (place) => ({ path: `/wire?filter=${siteOf(place)}/%23` }),
    "POST /wire": (place) => ({ path: "/wire", body: { topic: `${siteOf(place) ?? "team"}/by-hand`, payload: "x" } }),
    "GET /inlets/:slug": inlet(""),
    "PUT /inlets/:slug": async (place) => {
      const slug = await inletAt(place);
      return { path: `/inlets/${slug}`, body: { slug, name: "Changed", kind: "hook", site: siteOf(place) } };
    },
    "PATCH /inlets/:slug": inlet("", { name: "Changed" }),
    "DELETE /inlets/:slug": inlet(""),
    "POST /inlets/:slug/secret": inlet("/secret", {}),
    "GET /inlets/:slug/links": inlet("/links"),
    "POST /inlets/:slug/links": async (place) => {
      const slug = await inletAt(place);
      await near().world.client.makeSecret(slug);
      return { path: `/inlets/${slug}/links`, body: { phrase: `${channelOf(place)} on` } };
    },
    "DELETE /inlets/:slug/links/:id": linkAt,
    "POST /inlets/:slug/rehearse": inlet("/rehearse", { arrival: { text: "x" } }),
    "GET /inlets/:slug/listen": inlet("/listen"),
    "POST /inlets/:slug/past": async (place) => {
      const slug = await inletAt(place);
      return { path: `/inlets/${slug}/past`, body: { inlet: { slug, name: slug, kind: "hook", site: siteOf(place) } } };
    },
    "POST /inlets/:slug/try": inlet("/try", { arrival: { text: "x" } }),
    "PUT /notifications/:slug": async (place) => {
      const slug = await notificationAt(place);
      const to = { topic: `${siteOf(place) ?? "team"}/told/${slug}` };
      return {
        path: `/notifications/${slug}`,
        body: { slug, name: "Changed", site: siteOf(place), on: { changes: true }, to },
      };
    },
    "PATCH /notifications/:slug": async (place) => ({
      path: `/notifications/${await notificationAt(place)}`,
      body: { name: "Changed" },
    }),
    "DELETE /notifications/:slug": async (place) => ({ path: `/notifications/${await notificationAt(place)}` }),
    "POST /notifications/:slug/secret": async (place) => ({
      path: `/notifications/${await notificationAt(place)}/secret`,
      body: {},
    }),
    "GET /notifications/:slug/log": async (place) => ({ path: `/notifications/${await notificationAt(place)}/log` }),
    "POST /keys": async (place) => ({ path: "/keys", body: { name: "k", inlet: await inletAt(place) } }),
    "DELETE /keys/:id": async (place) => {
      const slug = await inletAt(place);
      await near().world.client.addKey({ name: "k", inlet: slug });
      const key = (await near().world.client.keys()).find((one) => one.inlet === slug);
      return { path: `/keys/${key?.id}` };
    },
    "POST /alerts": async (place) => ({
      path: "/alerts",
      body: { kind: "key-expiring", subject: await alertAt(place), note: "seen" },
    }),
  };

  /** What is the whole team's by its nature. */
  const ofTeam: Partial<Record<RouteName, Try>> = {
    "GET /metrics": () => ({ path: "/metrics" }),
    "PUT /profiles/:profile": async () => {
      const profile = (await near().world.client.profiles()).find(
        ({ profile: { slug } }) => slug === "answering",
      )?.profile;
      return { path: "/profiles/answering", body: profile };
    },
    "PATCH /profiles/:profile": () => ({ path: "/profiles/answering", body: { name: fresh("Answering") } }),
    "DELETE /profiles/:profile": async () => {
      const slug = fresh("profile");
      const [some] = await near().world.client.profiles();
      if (some) await near().world.client.saveProfile({ ...some.profile, slug, name: slug }, 0);
      return { path: `/profiles/${slug}` };
    },
    "DELETE /sites/:site": async () => {
      const slug = fresh("site");
      await near().world.client.saveSite({ slug, name: slug, rooms: [] }, 0);
      return { path: `/sites/${slug}` };
    },
    "GET /members": () => ({ path: "/members" }),
    "POST /members": () => ({ path: "/members", body: { name: fresh("Somebody") } }),
    "PUT /members/:name": async () => {
      const { name } = await near().world.client.addMember({ name: fresh("Somebody") });
      return { path: `/members/${name}`, body: { role: "reader" } };
    },
    "DELETE /members/:name": async () => ({
      path: `/members/${(await near().world.client.addMember({ name: fresh("Somebody") })).name}`,
    }),
    "POST /members/:name/reset": async () => {
      const { name } = await near().world.client.addMember({ name: fresh("Somebody") });
      return { path: `/members/${name}/reset`, body: {} };
    },
    "GET /team/rules": () => ({ path: "/team/rules" }),
    "PUT /team/rules": () => ({ path: "/team/rules", body: { secondFactorFor: [] } }),
    "GET /audit": () => ({ path: "/audit" }),
    "GET /cluster": () => ({ path: "/cluster" }),
    // To the one that has it: nothing happens.
    "PUT /cluster/leader": async () => {
      const { leader } = await near().world.client.cluster();
      return { path: "/cluster/leader", body: { instance: leader } };
    },
    "PUT /cluster/shards": () => ({ path: "/cluster/shards", body: { count: 1 } }),
    // Where it is already.
    "PUT /sites/:site/shard": () => ({ path: `/sites/${near().world.site}/shard`, body: { shard: 0 } }),
  };

  /** Lists and streams that show what is one's own, and nothing else: who has the right anywhere may call them. */
  const anywhere: Partial<Record<RouteName, Try>> = {
    "GET /sites": () => ({ path: "/sites" }),
    "GET /board": () => ({ path: "/board" }),
    "GET /status": () => ({ path: "/status" }),
    "GET /live": () => ({ path: "/live" }),
    "GET /requests": () => ({ path: "/requests" }),
    "GET /requests.:form": () => ({ path: "/requests.csv?limit=1" }),
    "GET /statistics": () => ({ path: "/statistics" }),
    "GET /statistics.csv": () => ({ path: "/statistics.csv" }),
    "GET /map": () => ({ path: "/map" }),
    "GET /map/reach": () => ({ path: "/map/reach" }),
    "GET /map/reach.csv": () => ({ path: "/map/reach.csv" }),
    "GET /map/findings": () => ({ path: "/map/findings" }),
    "GET /alerts": () => ({ path: "/alerts" }),
    "GET /devices": () => ({ path: "/devices" }),
    "GET /profiles": () => ({ path: "/profiles" }),
    "POST /profiles/try": () => ({
      path: "/profiles/try",
      body: { profile: "answering", device: { slug: "x", channels: [{ slug: "a", name: "A", kind: "relay" }] } },
    }),
    "POST /translators/check": () => ({ path: "/translators/check", body: { devices: [] } }),
    "GET /inlets": () => ({ path: "/inlets" }),
    "GET /notifications": () => ({ path: "/notifications" }),
    "GET /keys": () => ({ path: "/keys" }),
    "POST /phrases": () => ({ path: "/phrases", body: { text: "help" } }),
  };

  /** Tried by tests of their own: the one ends what belongs to a person, the other takes a password. */
  const elsewhere: readonly RouteName[] = ["POST /lockouts/:id/release", "POST /members/:name/second-factor/off"];

  return { ofPlace, ofTeam, anywhere, elsewhere, siteOf, channelOf };
}
