/** Inlets: who can ask, and what happens then? Every way in with its health, and the way to add one. */
import type { InletView } from "@bold-relay/api";
import { exampleInlet, formatAgo, INLET_KINDS, type InletKind, inletKinds } from "@bold-relay/core";
import { Field, Input, Label, Select } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link, useLocation } from "wouter";
import { useBoard } from "../../api/board.ts";
import { client } from "../../api/client.ts";
import { names } from "../../api/operate.ts";
import { useInlets } from "../../api/queries.ts";
import { useNow } from "../../live/use-now.ts";
import { Button } from "../../parts/button.tsx";
import { FIELD, PAGE, STRONG, Trouble } from "../../parts/form.tsx";

export function InletsPage() {
  const { data: inlets, error } = useInlets();
  const [adding, setAdding] = useState(false);
  const now = useNow();
  return (
    <div className={PAGE}>
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-2">
        <h1 className="text-page">Inlets</h1>
        {inlets && <p className="text-soft">{inlets.length} inlets</p>}
        <Button onClick={() => setAdding(!adding)} aria-expanded={adding} className={`${STRONG} ml-auto`}>
          Add inlet
        </Button>
      </header>
      {error && <p className="mt-3 text-wrong">{error.message}</p>}
      {adding && <AddInlet />}
      {inlets?.length === 0 && (
        <p className="mt-6 max-w-[560px] text-soft">
          No inlets yet. Add the first one, rehearse what it would do, then give its caller a key.
        </p>
      )}
      {inlets && inlets.length > 0 && (
        <table role="table" className="mt-5 w-full border-collapse text-left max-md:block">
          <thead role="rowgroup" className="max-md:sr-only">
            <tr role="row" className="border-ink border-b font-plate text-note text-soft">
              {["Inlet", "Kind", "Arrivals, 24 h", "Not understood", "Refused", "Last arrival", "Address"].map(
                (title, index) => (
                  <th
                    key={title}
                    role="columnheader"
                    scope="col"
                    className={`py-1.5 pr-4 font-medium ${index >= 2 && index <= 4 ? "text-right" : ""}`}
                  >
                    {title}
                  </th>
                ),
              )}
            </tr>
          </thead>
          <tbody role="rowgroup" className="max-md:block">
            {inlets.map((inlet) => (
              <InletRow key={inlet.slug} inlet={inlet} now={now} />
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

function InletRow({ inlet, now }: { inlet: InletView; now: number }) {
  const { slug, name, kind, site, routes, counts, lastAt } = inlet;
  const number = "pr-4 text-right tabular-nums max-md:text-left";
  return (
    <tr role="row" className="border-hairline border-b align-baseline max-md:grid max-md:grid-cols-2 max-md:py-2">
      <td role="cell" className="py-2 pr-4 max-md:col-span-2 max-md:py-0">
        <Link to={`/inlets/${slug}`} className="font-medium text-act underline-offset-2 hover:underline">
          {name}
        </Link>
        <span className="block text-note text-soft">
          <span className="font-mono">{slug}</span>, {site ?? "every site"}
        </span>
      </td>
      <td role="cell" className="pr-4 text-note">
        {kind}
        <span className="block text-soft">
          {routes > 0 ? `${routes} route${routes === 1 ? "" : "s"}` : inletKinds[kind].direct ? "" : "reads phrases"}
        </span>
      </td>
      <td role="cell" className={number}>
        {counts.day.arrivals}
        <span className="text-soft md:hidden"> arrivals</span>
      </td>
      <td role="cell" className={number}>
        {counts.day.notUnderstood}
        <span className="text-soft md:hidden"> not understood</span>
      </td>
      <td role="cell" className={number}>
        {counts.day.refused + counts.day.unknownSenders}
        <span className="text-soft md:hidden"> refused</span>
      </td>
      <td role="cell" className="whitespace-nowrap pr-4 text-note">
        {lastAt === null ? <span className="text-soft">never</span> : formatAgo(now - Date.parse(lastAt))}
      </td>
      <td role="cell" className="text-note max-md:col-span-2">
        <Health inlet={inlet} />
      </td>
    </tr>
  );
}

export function Health({ inlet: { paused, up, trouble, keys, kind, address, signed } }: { inlet: InletView }) {
  if (paused) return <strong className="font-semibold">paused</strong>;
  if (up === false) return <strong className="font-semibold text-wrong">{trouble}</strong>;
  if (keys === 0 && !signed && !inletKinds[kind].keyless)
    return <strong className="font-semibold text-wrong">No key. Nobody can call this inlet.</strong>;
  return <span className="font-mono text-soft">{address}</span>;
}

function AddInlet() {
  const { data: board } = useBoard();
  const queries = useQueryClient();
  const [, navigate] = useLocation();
  const [kind, setKind] = useState<InletKind>("chat");
  const [trouble, setTrouble] = useState<string | null>(null);

  async function submit(event: FormEvent<HTMLFormElement>): Promise<void> {
    event.preventDefault();
    const data = new FormData(event.currentTarget);
    const text = (name: string) => String(data.get(name) ?? "").trim();
    try {
      const site = text("site") === "" ? null : text("site");
      // It takes nothing before somebody has looked at what it would do.
      const draft = { ...exampleInlet(kind, text("slug"), text("name"), site), paused: true };
      await client.saveInlet(draft, 0);
      await queries.invalidateQueries({ queryKey: names.inlets });
      navigate(`/inlets/${draft.slug}`);
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  }

  return (
    <form
      aria-label="New inlet"
      onSubmit={(event) => void submit(event)}
      className="mt-4 grid grid-cols-2 gap-x-5 gap-y-3 border-act border-l-[3px] bg-sheet px-4 py-4 max-md:grid-cols-1"
    >
      <Field className="flex flex-col gap-1">
        <Label className="font-plate text-note">Kind</Label>
        <Select value={kind} onChange={(event) => setKind(event.target.value as InletKind)} className={FIELD}>
          {INLET_KINDS.map((one) => (
            <option key={one} value={one}>
              {one}: {inletKinds[one].about}
            </option>
          ))}
        </Select>
      </Field>
      <Field className="flex flex-col gap-1">
        <Label className="font-plate text-note">Site</Label>
        <Select name="site" className={FIELD}>
          {board?.sites.map(({ slug, name }) => (
            <option key={slug} value={slug}>
              {name}
            </option>
          ))}
          <option value="">every site</option>
        </Select>
      </Field>
      <Field className="flex flex-col gap-1">
        <Label className="font-plate text-note">Name</Label>
        <Input name="name" required maxLength={80} placeholder="Porch chat" className={FIELD} />
      </Field>
      <Field className="flex flex-col gap-1">
        <Label className="font-plate text-note">Identifier</Label>
        <Input name="slug" required maxLength={40} placeholder="porch-chat" className={FIELD} />
      </Field>
      <div className="col-span-2 max-md:col-span-1">
        <Trouble>{trouble}</Trouble>
        <p className="mt-1 flex flex-wrap items-center gap-4">
          <Button type="submit" className={STRONG}>
            Add inlet
          </Button>
          <span className="text-note text-soft">
            A new inlet is paused and has an example route to edit and rehearse.
          </span>
        </p>
      </div>
    </form>
  );
}
