/** The wire: what is really on the broker, and one message by hand. */
import { ProblemError, type PublishBody, type WireMessageView } from "@bold-relay/api";
import { Checkbox, Field, Input, Label } from "@headlessui/react";
import { type FormEvent, memo, useState } from "react";
import { useSearchParams } from "wouter";
import { client } from "../../api/client.ts";
import { Button } from "../../parts/button.tsx";
import { FIELD, SectionTitle, STRONG, Trouble } from "../../parts/form.tsx";
import { when } from "../../parts/time.ts";
import { useWire, type WireLine } from "./use-wire.ts";

export function WirePage() {
  const [params, setParams] = useSearchParams();
  const filter = params.get("filter") ?? "#";
  const all = params.get("all") === "true";
  const [paused, setPaused] = useState(false);
  const { lines, masks, trouble } = useWire(filter, all, paused);

  function submit(event: FormEvent<HTMLFormElement>): void {
    event.preventDefault();
    const wanted = String(new FormData(event.currentTarget).get("filter")).trim() || "#";
    setParams({ filter: wanted, ...(all ? { all: "true" } : {}) });
  }

  return (
    <div className="px-5 pt-5 pb-10 max-md:px-3 max-md:pt-3">
      <h1 className="text-page">Wire</h1>
      <div className="mt-3 flex flex-wrap items-end gap-x-5 gap-y-3">
        <form onSubmit={submit} className="flex items-end gap-3">
          <Field className="flex flex-col gap-1">
            <Label className="font-plate text-note">MQTT topic filter</Label>
            <Input
              key={filter}
              name="filter"
              defaultValue={filter}
              className={`${FIELD} w-[300px] font-mono text-note max-md:w-[200px]`}
            />
          </Field>
          <Button type="submit" className={STRONG}>
            Listen
          </Button>
        </form>
        <Field className="flex h-9 items-center gap-2">
          <Checkbox
            checked={all}
            onChange={(on) => setParams({ filter, ...(on ? { all: "true" } : {}) })}
            className="group flex size-5 items-center justify-center rounded-key border border-soft bg-enclosure"
          >
            <span aria-hidden="true" className="hidden font-semibold text-act group-data-checked:block">
              ✓
            </span>
          </Checkbox>
          <Label className="text-note">All topics, with command topics and unassigned topics</Label>
        </Field>
        <Button onClick={() => setPaused(!paused)} aria-pressed={paused} className={`${STRONG} ml-auto`}>
          {paused ? "Resume" : "Pause"}
        </Button>
      </div>
      {masks && (
        <p role="status" className="mt-3 border-act border-l-[3px] bg-act-wash px-4 py-2 text-note">
          While all topics are shown, the broker cannot tell that no device listens to a command.
        </p>
      )}
      <Trouble>{trouble}</Trouble>
      <Publish />
      <section aria-label="Messages" className="mt-4">
        <table role="table" className="w-full border-collapse text-left text-note max-md:block">
          <thead role="rowgroup" className="max-md:sr-only">
            <tr role="row" className="border-ink border-b font-plate text-soft">
              {["Time", "", "Topic", "Payload", "Belongs to"].map((title) => (
                <th key={title} role="columnheader" scope="col" className="py-1.5 pr-4 font-medium">
                  {title || <span className="sr-only">Direction</span>}
                </th>
              ))}
            </tr>
          </thead>
          <tbody role="rowgroup" className="max-md:block">
            {lines.map((line) => (
              <Line key={line.key} line={line} />
            ))}
          </tbody>
        </table>
        {lines.length === 0 && <p className="py-4 text-soft">No messages yet for {filter}.</p>}
      </section>
    </div>
  );
}

const Line = memo(function Line({ line }: { line: WireLine }) {
  if (line.message === null) {
    return (
      <tr role="row" className="border-hairline border-b max-md:block">
        <td role="cell" colSpan={5} className="py-1.5 text-soft max-md:block">
          {line.note}
        </td>
      </tr>
    );
  }
  const { at, topic, text, own, retained } = line.message;
  return (
    <tr
      role="row"
      className="border-hairline border-b align-baseline max-md:grid max-md:grid-cols-[auto_20px_minmax(0,1fr)] max-md:py-1.5"
    >
      <td role="cell" className="whitespace-nowrap py-1.5 pr-4 text-soft tabular-nums">
        {when.clockMs(at)}
      </td>
      <td role="cell" className="pr-4 max-md:py-1.5">
        <span aria-hidden="true">{own ? "→" : retained ? "∙" : "←"}</span>
        <span className="sr-only">{own ? "sent" : retained ? "retained" : "received"}</span>
      </td>
      <td role="cell" className="pr-4 font-mono md:whitespace-nowrap max-md:break-all max-md:py-1.5">
        {topic}
      </td>
      <td role="cell" className="break-all pr-4 font-mono md:max-w-[300px] max-md:col-span-3">
        {text}
      </td>
      <td role="cell" className="pr-2 max-md:col-span-3">
        {whatItIs(line.message)}
      </td>
    </tr>
  );
});

const ROLES = { do: "command", ask: "state query", done: "acknowledgement", is: "report", here: "presence" } as const;

function whatItIs({ role, channel, device, meaning, commandId, retained }: WireMessageView): string {
  const command = commandId === null ? [] : [`command …${commandId.slice(-6)}`];
  const kept = retained ? ["retained"] : [];
  if (role === null) return ["unassigned", ...kept, ...command].join(", ");
  return [ROLES[role], channel ?? device ?? "", meaning ?? "", ...kept, ...command]
    .filter((one) => one !== "")
    .join(", ");
}

function Publish() {
  const [said, setSaid] = useState<{ text: string; ok: boolean } | null>(null);
  /** A message that waits for its sender to say that their own lock-out is no hindrance. */
  const [unconfirmed, setUnconfirmed] = useState<PublishBody | null>(null);
  async function publish(body: PublishBody): Promise<void> {
    setUnconfirmed(null);
    try {
      await client.publish(body);
      setSaid({ text: `Published on ${body.topic}. The audit log has a record of it.`, ok: true });
    } catch (error) {
      setSaid({ text: error instanceof Error ? error.message : String(error), ok: false });
      if (error instanceof ProblemError && error.problem.code === "lockout-unconfirmed") setUnconfirmed(body);
    }
  }
  async function submit(event: FormEvent<HTMLFormElement>): Promise<void> {
    event.preventDefault();
    const data = new FormData(event.currentTarget);
    const hex = data.get("as") === "hex";
    const topic = String(data.get("topic")).trim();
    await publish({ topic, payload: String(data.get("payload") ?? ""), as: hex ? "hex" : "text" });
  }
  return (
    <section aria-label="Publish by hand">
      <SectionTitle>Publish a message</SectionTitle>
      <form onSubmit={(event) => void submit(event)} className="mt-3 flex flex-wrap items-end gap-3">
        <Field className="flex flex-col gap-1">
          <Label className="font-plate text-note">Topic</Label>
          <Input
            name="topic"
            required
            maxLength={200}
            className={`${FIELD} w-[300px] max-w-full font-mono text-note`}
          />
        </Field>
        <Field className="flex flex-col gap-1">
          <Label className="font-plate text-note">Payload</Label>
          <Input name="payload" maxLength={4096} className={`${FIELD} w-[300px] font-mono text-note`} />
        </Field>
        <label className="flex h-9 items-center gap-2 text-note">
          <input type="checkbox" name="as" value="hex" className="size-5" /> hexadecimal bytes
        </label>
        <Button type="submit" className={STRONG}>
          Publish
        </Button>
      </form>
      {said && (
        <p role={said.ok ? "status" : "alert"} className={`mt-2 text-note ${said.ok ? "text-soft" : "text-wrong"}`}>
          {said.text}
        </p>
      )}
      {unconfirmed && (
        <Button onClick={() => void publish({ ...unconfirmed, confirm: true })} className={`${STRONG} mt-2`}>
          Publish despite my lock-out
        </Button>
      )}
    </section>
  );
}
