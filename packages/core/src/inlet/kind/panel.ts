import type { Finding } from "../../site/finding.ts";
import { fullAddress } from "../input.ts";
import { offeredBy, panelParts, panelSettings, partAddress } from "../panel.ts";
import type { InletKindForm } from "./kind.ts";

export const panel: InletKindForm = {
  about: "a page of large buttons and readings, for a person, a room or a tablet",
  perMinute: 600,
  draft: { settings: { items: [{ heading: "Lights" }] } },
  example: { fields: { target: "alder-row/wren/porch", action: "on" } },
  exampleOf(inlet) {
    const [first] = panelSettings(inlet).items.flatMap((item) =>
      "show" in item && item.show.includes("/") ? [item] : [],
    );
    return first ? { fields: { target: fullAddress(first.show, inlet.site), action: "on" } } : null;
  },
  typed: [["fields", "Request (JSON)"]],
  direct: true,
  page: true,
  place: ({ slug }) => `/panel/${slug}`,
  findings(inlet, { snapshot }) {
    return panelParts(inlet, snapshot).flatMap((part): Finding[] => {
      if (part.target !== null && "heading" in part.target) return [];
      if (partAddress(part) !== null) return [];
      const at = `settings.items[${part.place - 1}].show`;
      return [
        { level: "wrong", at, text: `No channel, group or scene here is called “${shownName(inlet, part.place)}”.` },
      ];
    });
  },
  offers(inlet, ask, snapshot) {
    return offeredBy(panelParts(inlet, snapshot), ask) !== undefined;
  },
  caller: ({ slug }, { origin }) => `${origin}/panel/${slug}#KEY`,
};

function shownName(inlet: Parameters<typeof panelSettings>[0], place: number): string {
  const item = panelSettings(inlet).items[place - 1];
  return item && "show" in item ? item.show : "";
}
