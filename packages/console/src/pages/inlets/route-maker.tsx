/** A route made from an arrival that came, without writing it: it goes into the text beside it, and is rehearsed there. */
import {
  type Arrival,
  arrivalParts,
  draftHoles,
  firstChoices,
  type Route,
  type RouteDraft,
  routeFrom,
} from "@bold-relay/core";
import { Field, Input, Label, Select } from "@headlessui/react";
import { type FormEvent, useState } from "react";
import { useBoard } from "../../api/board.ts";
import { Button } from "../../parts/button.tsx";
import { FIELD, QUIET, SectionTitle, STRONG } from "../../parts/form.tsx";
import { Examples, Parts } from "./route-parts.tsx";

interface RouteMakerProps {
  readonly arrival: Partial<Arrival>;
  /** The site whose channels are offered; null: of every site. */
  readonly site: string | null;
  /** Names of the routes that there are, in order. */
  readonly routes: readonly string[];
  /** @param at its place among them, from 0 */
  readonly onAdd: (route: Route, at: number) => void;
  readonly onCancel: () => void;
}

const EMPTY = { name: "", target: "", action: "", value: "", examples: [], onlySender: "", reply: "" } as const;

export function RouteMaker({ arrival, site, routes, onAdd, onCancel }: RouteMakerProps) {
  const parts = arrivalParts(arrival);
  const [draft, setDraft] = useState<RouteDraft>(() => ({ ...EMPTY, choices: firstChoices(parts) }));
  const [at, setAt] = useState(0);
  const change = (changed: Partial<RouteDraft>) => setDraft({ ...draft, ...changed });
  const holes = draftHoles(parts, draft.choices, arrival);
  const hole = /^\{(\w+)\}$/.exec(draft.value === "" ? draft.action : draft.value)?.[1];
  const submit = (event: FormEvent) => {
    event.preventDefault();
    onAdd(routeFrom(draft, parts), at);
  };
  return (
    <section aria-label="Make a route">
      <SectionTitle>Make a route from this request</SectionTitle>
      <form onSubmit={submit} className="mt-3 flex flex-col gap-4">
        <Parts parts={parts} choices={draft.choices} onChange={(choices) => change({ choices })} />
        {Object.keys(holes).length > 0 && (
          <p className="text-note text-soft">
            Holes for target, action and value:{" "}
            {Object.entries(holes).map(([name, said]) => (
              <span key={name} className="mr-3 whitespace-nowrap">
                <span className="font-mono text-ink">{`{${name}}`}</span> is “{said}”
              </span>
            ))}
          </p>
        )}
        <div className="flex flex-wrap gap-3">
          <Text label="Name of the route" value={draft.name} onChange={(name) => change({ name })} />
          <TargetField site={site} value={draft.target} onChange={(target) => change({ target })} />
          <Text
            label="Action"
            value={draft.action}
            list="route-actions"
            required
            onChange={(action) => change({ action })}
          />
          <Text label="Value, if the action takes one" value={draft.value} onChange={(value) => change({ value })} />
        </div>
        <Actions holes={Object.keys(holes)} />
        {hole !== undefined && (
          <Examples
            hole={hole}
            first={holes[hole] ?? ""}
            examples={draft.examples}
            onChange={(examples) => change({ examples })}
          />
        )}
        <div className="flex flex-wrap items-end gap-3">
          {arrival.sender && !arrival.channel && (
            <label className="flex h-9 items-center gap-2 text-note">
              <input
                type="checkbox"
                checked={draft.onlySender !== ""}
                onChange={(event) => change({ onlySender: event.target.checked ? (arrival.sender ?? "") : "" })}
              />
              Only from {arrival.sender}
            </label>
          )}
          <Text label="Reply when it is done" value={draft.reply} onChange={(reply) => change({ reply })} />
          <Field className="flex flex-col gap-1">
            <Label className="font-plate text-note">Place</Label>
            <Select value={at} onChange={(event) => setAt(Number(event.target.value))} className={FIELD}>
              {routes.map((name, place) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: two routes may have the same name
                <option key={place} value={place}>
                  Before {place + 1}. {name}
                </option>
              ))}
              <option value={routes.length}>Last</option>
            </Select>
          </Field>
        </div>
        <p className="flex items-center gap-4">
          <Button type="submit" className={STRONG}>
            Add route to the text
          </Button>
          <Button onClick={onCancel} className={QUIET}>
            Cancel
          </Button>
          <span className="text-note text-soft">Nothing is saved yet.</span>
        </p>
      </form>
    </section>
  );
}

interface TextProps {
  readonly label: string;
  readonly value: string;
  readonly onChange: (value: string) => void;
  readonly list?: string;
  readonly required?: boolean;
}

function Text({ label, value, onChange, list, required = false }: TextProps) {
  return (
    <Field className="flex flex-col gap-1">
      <Label className="font-plate text-note">{label}</Label>
      <Input
        value={value}
        list={list}
        required={required}
        maxLength={200}
        onChange={(event) => onChange(event.target.value)}
        className={`${FIELD} w-[230px] max-w-full`}
      />
    </Field>
  );
}

/** A name or an address; what the board has is offered. */
function TargetField({ site, value, onChange }: { site: string | null } & Pick<TextProps, "value" | "onChange">) {
  const { data: board } = useBoard();
  const sites = (board?.sites ?? []).filter(({ slug }) => site === null || slug === site);
  return (
    <>
      <Text label="Target" value={value} list="route-targets" required onChange={onChange} />
      <datalist id="route-targets">
        {sites.flatMap(({ channels }) =>
          channels.map(({ address, name, room }) => (
            <option key={address} value={address}>
              {name}, {room.name}
            </option>
          )),
        )}
      </datalist>
    </>
  );
}

const ACTIONS = ["on", "off", "toggle", "pulse", "level", "open", "close", "stop", "recall"];

function Actions({ holes }: { holes: readonly string[] }) {
  return (
    <datalist id="route-actions">
      {[...ACTIONS, ...holes.map((name) => `{${name}}`)].map((action) => (
        <option key={action} value={action} />
      ))}
    </datalist>
  );
}
