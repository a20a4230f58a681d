/** What catches requests at an inlet: its routes, a keypad's keys, signed links, the grammar, or a name that the caller gives. */
import { eventOf, eventWords } from "../inlet/input.ts";
import { inletKinds } from "../inlet/kind/index.ts";
import type { Menu } from "../inlet/menu.ts";
import type { Condition, InletDescription, Route, When } from "../inlet/model.ts";
import { panelParts } from "../inlet/panel.ts";
import { buildVocabulary } from "../phrase/vocabulary.ts";
import type { Snapshot } from "../site/snapshot.ts";
import { routeFilter } from "../site/topic-right.ts";
import { inletAskers, inputAskers, type MapInlet, routeAskers } from "./askers.ts";
import { type MapAsker, type MapCatch, roleText } from "./element.ts";
import type { Found, PhrasePlace, TargetFinder } from "./target-finder.ts";
import { inletWay } from "./way.ts";

/** A signed link that counts. */
export interface MapLink {
  readonly inlet: string;
  readonly phrase: string;
}

/** With the names in it that nothing has. */
export interface CatchFound {
  readonly caught: MapCatch;
  readonly lost: readonly string[];
}

export function inletCatches(
  one: MapInlet,
  links: readonly MapLink[],
  snapshot: Snapshot,
  finder: TargetFinder,
): CatchFound[] {
  const { inlet } = one;
  const { slug, kind, routes = [], settings = {} } = inlet;
  const sites = inlet.site === null ? null : [inlet.site];
  const askers = inletAskers(one);
  const vocabulary = once(() => buildVocabulary(snapshot, sites, inlet.synonyms));
  const place: PhrasePlace = { sites, vocabulary, synonyms: inlet.synonyms ?? {} };
  const phrase = (text: string) => finder.phrase(text, place);
  const { menu } = settings as { readonly menu?: Menu };
  return [
    ...routes.map((route, index) => routeCatch(route, index + 1, { inlet, askers, snapshot, place, finder })),
    ...(menu && routes.length === 0 ? menuKeys(menu, "").map((key) => keyCatch(inlet, askers, key, phrase)) : []),
    ...(inletKinds[kind].page ? panelButtons(inlet, askers, snapshot, finder) : []),
    ...(menu || routes.length > 0 || inletKinds[kind].page ? [] : [ownCatch(inlet, askers, sites, finder)]),
    ...links.filter((link) => link.inlet === slug).map((link) => linkCatch(inlet, link, phrase)),
    ...(inletKinds[kind].direct && routes.length > 0 ? [ownCatch(inlet, askers, sites, finder)] : []),
  ];
}

interface RoutePlace {
  readonly inlet: InletDescription;
  readonly askers: readonly MapAsker[];
  readonly snapshot: Snapshot;
  readonly place: PhrasePlace;
  readonly finder: TargetFinder;
}

function routeCatch(route: Route, number: number, { inlet, askers, snapshot, place, finder }: RoutePlace): CatchFound {
  const { when, only, do: deed, name } = route;
  const words = "phrase" in when && !("target" in deed) && !("ignore" in deed);
  const found: Found = words ? { reaches: finder.everything(place.sites), lost: [] } : finder.deed(deed, place);
  const note = [whenText(when), conditionText(only)].filter((part) => part !== "").join(", ");
  return {
    caught: {
      ...common(inlet),
      id: `route:${inlet.slug}/${number}`,
      kind: "route",
      name: name ?? `Route ${number}`,
      note,
      route: number,
      topic: "topic" in when ? routeFilter(when.topic) : null,
      way: inletWay(inlet.slug, route),
      askers: "channel" in when ? inputAskers(when.channel, inlet.site, snapshot) : routeAskers(route, inlet, askers),
      reaches: found.reaches,
    },
    lost: found.lost,
  };
}

/** @example whenText({ topic: "buttons/{room}" }) // → "topic buttons/{room}" */
export function whenText(when: When): string {
  if ("any" in when) return "anything";
  if ("phrase" in when) return "whatever the grammar understands";
  if ("words" in when) return `the words “${when.words}”`;
  if ("digits" in when) return `keys ${when.digits}`;
  if ("topic" in when) return `topic ${when.topic}`;
  if ("channel" in when) return `${when.channel} ${eventWords(eventOf(when))}`;
  return Object.entries(when.fields)
    .map(([pointer, value]) => `${pointer} is ${value}`)
    .join(" and ");
}

function conditionText(only: Condition | undefined): string {
  if (!only) return "";
  const { senders, role, channel } = only;
  return [
    ...(senders ? [`only from ${senders.join(", ")}`] : []),
    ...(role ? [`only from a ${roleText(role)}`] : []),
    ...(channel ? [`only while ${channel.address} is ${channel.is}`] : []),
  ].join(", ");
}

function common({ slug, site, paused = false }: InletDescription) {
  return { inlet: slug, site, paused, route: null, topic: null, way: inletWay(slug, null) };
}

/** What an inlet does without routes. */
function ownCatch(
  inlet: InletDescription,
  askers: readonly MapAsker[],
  sites: readonly string[] | null,
  finder: TargetFinder,
): CatchFound {
  const named = inletKinds[inlet.kind].direct === true || inlet.kind === "call";
  return {
    caught: {
      ...common(inlet),
      id: `${named ? "named" : "phrases"}:${inlet.slug}`,
      kind: named ? "named" : "phrases",
      name: inlet.name,
      note: named ? "the channel that the caller names" : "whatever the grammar understands",
      askers,
      reaches: finder.everything(sites),
    },
    lost: [],
  };
}

interface MenuKey {
  readonly digits: string;
  readonly phrase: string;
}

/** Every key of a menu and of those below it, with the keys that lead there. */
function menuKeys({ keys }: Menu, before: string): MenuKey[] {
  return Object.entries(keys).flatMap(([key, { phrase, menu }]) => [
    ...(phrase === undefined ? [] : [{ digits: before + key, phrase }]),
    ...(menu ? menuKeys(menu, before + key) : []),
  ]);
}

function keyCatch(
  inlet: InletDescription,
  askers: readonly MapAsker[],
  { digits, phrase }: MenuKey,
  read: (phrase: string) => Found,
): CatchFound {
  const { reaches, lost } = read(phrase);
  const id = `key press:${inlet.slug}/${digits}`;
  const name = `Keys ${digits}`;
  return { caught: { ...common(inlet), id, kind: "key press", name, note: `“${phrase}”`, askers, reaches }, lost };
}

function panelButtons(
  inlet: InletDescription,
  askers: readonly MapAsker[],
  snapshot: Snapshot,
  finder: TargetFinder,
): CatchFound[] {
  const parts = panelParts(inlet, snapshot).filter(({ actions }) => actions.length > 0);
  return parts.flatMap((part): CatchFound[] => {
    const { target, place, name } = part;
    if (target === null || "heading" in target) return [];
    const [only, ...others] = part.actions;
    const action = others.length === 0 ? (only ?? null) : null;
    const reached =
      "channel" in target ? { target: finder.channel(target.channel), action } : finder.bundle(target.bundle, action);
    const own = {
      id: `button:${inlet.slug}/${place}`,
      kind: "button" as const,
      name: `Button “${name}”`,
      note: "",
      askers,
    };
    return [{ caught: { ...common(inlet), ...own, reaches: [reached] }, lost: [] }];
  });
}

function linkCatch(inlet: InletDescription, { phrase }: MapLink, read: (phrase: string) => Found): CatchFound {
  const { slug } = inlet;
  const { reaches, lost } = read(phrase);
  const asker: MapAsker = {
    id: `holder:${slug}/link ${phrase}`,
    kind: "holder",
    name: "Whoever has the link",
    note: `of ${inlet.name}`,
    inlet: slug,
    anybody: false,
  };
  const id = `link:${slug}/${phrase}`;
  return {
    caught: { ...common(inlet), id, kind: "link", name: `Link “${phrase}”`, note: "", askers: [asker], reaches },
    lost,
  };
}

function once<Made>(make: () => Made): () => Made {
  let made: Made | null = null;
  return () => {
    made ??= make();
    return made;
  };
}
