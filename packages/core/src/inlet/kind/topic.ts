import type { InletKindForm } from "./kind.ts";

export const topic: InletKindForm = {
  about: "messages on MQTT topics",
  perMinute: 6_000,
  draft: {
    routes: [
      {
        name: "buttons",
        when: { topic: "buttons/{room}/{lamp}" },
        do: { target: "{room}/{lamp}", action: "{payload}", map: { payload: { table: { "1": "on", "0": "off" } } } },
      },
    ],
  },
  example: { topic: "buttons/wren/porch", text: "1" },
  caller({ routes = [] }) {
    const [first = "buttons/wren/porch"] = routes.flatMap(({ when }) => ("topic" in when ? when.topic : []));
    return `mosquitto_pub -q 1 -t '${first.replace(/\{(\w+)\}/g, "$1")}' -m 1`;
  },
  catches: "topic",
  proof: "none",
};
