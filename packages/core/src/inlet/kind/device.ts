import type { Finding } from "../../site/finding.ts";
import { eventOf, fullAddress, inputsOf, isSwitchInput, pressTimesOf } from "../input.ts";
import type { InletDescription, Route } from "../model.ts";
import type { InletKindForm } from "./kind.ts";

export const device: InletKindForm = {
  about: "buttons, switches and contacts of your own devices",
  perMinute: 600,
  draft: {
    routes: [
      {
        name: "wall buttons",
        when: { channel: "{room}/button", pressed: "once" },
        do: { target: "{room}/porch", action: "toggle" },
      },
    ],
  },
  example: { channel: "alder-row/finch/button", text: "once" },
  exampleOf({ routes = [], site }) {
    const [first] = routes.flatMap(({ when }) => ("channel" in when && !/[{+]/.test(when.channel) ? [when] : []));
    return first ? { channel: fullAddress(first.channel, site), text: eventOf(first) } : null;
  },
  typed: [
    ["channel", "Channel"],
    ["text", "What it does: on, off, once, twice or long"],
  ],
  keyless: true,
  findings(inlet, { snapshot }) {
    const { routes = [] } = inlet;
    if (!routes.some(({ when }) => "channel" in when))
      return [{ level: "wrong", at: "routes", text: "needs a route with a channel: else it hears nothing." }];
    return routes.flatMap((route, index) => routeFindings(route, `routes[${index}].when`, inlet, snapshot));
  },
  place: () => "inputs of devices",
  caller({ slug, routes = [] }, { channel }) {
    const [first = channel] = routes.flatMap(({ when }) => ("channel" in when ? when.channel : []));
    return `bold-relay inlet try ${slug} --channel '${first}' --text once`;
  },
  catches: "channel",
  proof: "none",
};

function routeFindings(
  { when }: Route,
  at: string,
  inlet: InletDescription,
  snapshot: Parameters<typeof inputsOf>[2],
): Finding[] {
  if (!("channel" in when)) return [];
  const found = inputsOf(when.channel, inlet.site, snapshot);
  const findings: Finding[] = [];
  const [only] = found;
  if (!only) {
    const isExact = !/[{+]/.test(when.channel) && when.channel.split("/").length + (inlet.site === null ? 0 : 1) >= 3;
    const text = `No input here is called “${when.channel}”. A route names device/channel, or site/device/channel.`;
    findings.push({ level: isExact ? "wrong" : "doubt", at: `${at}.channel`, text });
  } else if (!isSwitchInput(only))
    findings.push({
      level: "wrong",
      at: `${at}.channel`,
      text: `${only.address} is a ${only.kind}. Only contacts start requests.`,
    });
  if ("pressed" in when && when.pressed === "long" && !pressTimesOf(inlet).releases)
    findings.push({
      level: "wrong",
      at: `${at}.pressed`,
      text: "never acts: with “releases: false” nobody knows how long a button is held.",
    });
  return findings;
}
