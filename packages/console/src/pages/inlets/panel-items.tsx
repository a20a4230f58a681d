/** The items of a panel: chosen from what the site has, in their own order and wording. They go into the text beside. */
import type { ChannelView, SiteView } from "@bold-relay/api";
import { type InletDescription, inletKinds, kindOf, type PanelItem, panelSettings } from "@bold-relay/core";
import { Field, Input, Label, Select } from "@headlessui/react";
import { type FormEvent, useState } from "react";
import { useBoard } from "../../api/board.ts";
import { Button } from "../../parts/button.tsx";
import { withMovedItem, withoutItem, withPanelItem } from "../../parts/editor/panel-text.ts";
import { FIELD, STRONG } from "../../parts/form.tsx";
import { MovableList } from "../../parts/movable-list.tsx";

interface PanelItemsProps {
  /** As the text says; of a text that cannot be read, what is wrong with it. */
  readonly inlet: InletDescription | { readonly wrong: unknown };
  readonly text: string;
  readonly onChange: (text: string) => void;
}

/** Nothing for inlets of other kinds. */
export function PanelItems({ inlet, text, onChange }: PanelItemsProps) {
  if ("wrong" in inlet || !inletKinds[inlet.kind].page) return null;
  const { items } = panelSettings(inlet);
  return (
    <section aria-label="Items of the panel" className="mb-5 text-note">
      <h3 className="font-plate text-note">Items</h3>
      <MovableList
        label="Items of the panel"
        names={items.map(itemText)}
        onMove={(from, to) => onChange(withMovedItem(text, from, to))}
        onRemove={(at) => onChange(withoutItem(text, at))}
      />
      <AddItem site={inlet.site} onAdd={(item) => onChange(withPanelItem(text, item))} />
    </section>
  );
}

/** @example itemText({ show: "wren/porch", name: "Lantern" }) // → "Lantern (wren/porch)" */
function itemText(item: PanelItem): string {
  if ("heading" in item) return `Heading: ${item.heading}`;
  const { show, name, acts = true } = item;
  return `${name === undefined ? show : `${name} (${show})`}${acts ? "" : ", shown only"}`;
}

const NONE = { show: "", name: "", acts: true };

function AddItem({ site, onAdd }: { site: string | null; onAdd: (item: PanelItem) => void }) {
  const [kind, setKind] = useState<"show" | "heading">("show");
  const [draft, setDraft] = useState(NONE);
  const change = (changed: Partial<typeof NONE>) => setDraft({ ...draft, ...changed });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const { show, name, acts } = draft;
    if (kind === "heading") onAdd({ heading: name });
    else onAdd({ show, ...(name === "" ? {} : { name }), ...(acts ? {} : { acts }) });
    setDraft(NONE);
  };
  return (
    <form onSubmit={submit} aria-label="Add an item" className="mt-3 flex flex-wrap items-end gap-3">
      <Field className="flex flex-col gap-1">
        <Label className="font-plate text-note">Item</Label>
        <Select
          value={kind}
          onChange={(event) => setKind(event.target.value === "heading" ? "heading" : "show")}
          className={FIELD}
        >
          <option value="show">Channel, group or scene</option>
          <option value="heading">Heading</option>
        </Select>
      </Field>
      {kind === "show" && (
        <Field className="flex flex-col gap-1">
          <Label className="font-plate text-note">Shows</Label>
          <Input
            value={draft.show}
            list="panel-targets"
            required
            maxLength={200}
            onChange={(event) => change({ show: event.target.value })}
            className={`${FIELD} w-[220px] max-w-full`}
          />
          <Targets site={site} />
        </Field>
      )}
      <Field className="flex flex-col gap-1">
        <Label className="font-plate text-note">{kind === "heading" ? "Heading" : "Own wording"}</Label>
        <Input
          value={draft.name}
          required={kind === "heading"}
          maxLength={60}
          onChange={(event) => change({ name: event.target.value })}
          className={`${FIELD} w-[180px] max-w-full`}
        />
      </Field>
      {kind === "show" && (
        <label className="flex h-9 items-center gap-2">
          <input type="checkbox" checked={draft.acts} onChange={(event) => change({ acts: event.target.checked })} />
          Can be switched
        </label>
      )}
      <Button type="submit" className={STRONG}>
        Add item
      </Button>
    </form>
  );
}

function Targets({ site }: { site: string | null }) {
  const { data: board } = useBoard();
  const sites = (board?.sites ?? []).filter(({ slug }) => site === null || slug === site);
  return (
    <datalist id="panel-targets">
      {sites.flatMap(({ bundles, channels }) => [
        ...channels.map((channel) => (
          <option key={channel.address} value={channel.address}>
            {channelText(channel)}
          </option>
        )),
        ...bundles.map((bundle) => (
          <option key={bundle.address} value={bundle.address}>
            {bundleText(bundle)}
          </option>
        )),
      ])}
    </datalist>
  );
}

function channelText({ name, room, kind }: ChannelView): string {
  return `${name}, ${room.name}${kindOf(kind).input ? ", shown only" : ""}`;
}

function bundleText({ name, kind }: SiteView["bundles"][number]): string {
  return `${name}, ${kind}`;
}
