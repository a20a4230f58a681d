/** A notification as a form: of what, for which sites, and where to. */
import { type NotificationDescription, OUTCOMES, type Outcome, outcomeWords } from "@bold-relay/core";
import { Checkbox, Field, Input, Label, Select } from "@headlessui/react";
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useBoard } from "../../api/board.ts";
import { client } from "../../api/client.ts";
import { names } from "../../api/operate.ts";
import { Button } from "../../parts/button.tsx";
import { FIELD, QUIET, STRONG, Trouble } from "../../parts/form.tsx";

interface NotificationFormProps {
  /** null: a new one. */
  readonly notification: { readonly notification: NotificationDescription; readonly version: number } | null;
  readonly onDone: () => void;
}

const TOLD = OUTCOMES.filter((outcome) => outcome !== "open");
const FIRST: readonly Outcome[] = ["not-delivered", "partly-delivered", "refused", "not-understood"];

export function NotificationForm({ notification: known, onDone }: NotificationFormProps) {
  const { data: board } = useBoard();
  const queries = useQueryClient();
  const before = known?.notification;
  const [outcomes, setOutcomes] = useState<readonly Outcome[]>(before ? (before.on.outcomes ?? []) : FIRST);
  const [changes, setChanges] = useState(before?.on.changes === true);
  const [alerts, setAlerts] = useState(before ? before.on.alerts === true : true);
  const [by, setBy] = useState<"url" | "topic">(before && "topic" in before.to ? "topic" : "url");
  const [trouble, setTrouble] = useState<string | null>(null);

  async function submit(event: FormEvent<HTMLFormElement>): Promise<void> {
    event.preventDefault();
    const data = new FormData(event.currentTarget);
    const text = (name: string) => String(data.get(name) ?? "").trim();
    const site = text("site") === "" ? null : text("site");
    const notification: NotificationDescription = {
      slug: before?.slug ?? text("slug"),
      name: text("name"),
      site,
      ...(before?.paused ? { paused: true } : {}),
      on: { ...(outcomes.length > 0 ? { outcomes } : {}), changes, alerts },
      to: by === "url" ? { url: text("to") } : { topic: text("to") },
    };
    try {
      await client.saveNotification(notification, known?.version ?? 0);
      await queries.invalidateQueries({ queryKey: names.notifications });
      onDone();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  }

  const pick = (outcome: Outcome, on: boolean) =>
    setOutcomes(on ? [...outcomes, outcome] : outcomes.filter((one) => one !== outcome));
  const to = before ? ("url" in before.to ? before.to.url : before.to.topic) : "";
  return (
    <form
      aria-label={before ? `Edit ${before.name}` : "New notification"}
      onSubmit={(event) => void submit(event)}
      className="mt-4 grid grid-cols-2 gap-x-5 gap-y-3 border-act border-l-[3px] bg-sheet px-4 py-4 max-md:grid-cols-1"
    >
      <Field className="flex flex-col gap-1">
        <Label className="font-plate text-note">Name</Label>
        <Input
          name="name"
          required
          maxLength={80}
          defaultValue={before?.name}
          placeholder="Night desk"
          className={FIELD}
        />
      </Field>
      {before ? (
        <p className="self-end text-note text-soft">
          Identifier: <span className="font-mono">{before.slug}</span>
        </p>
      ) : (
        <Field className="flex flex-col gap-1">
          <Label className="font-plate text-note">Identifier</Label>
          <Input name="slug" required maxLength={40} placeholder="night-desk" className={FIELD} />
        </Field>
      )}
      <Field className="flex flex-col gap-1">
        <Label className="font-plate text-note">Site</Label>
        <Select name="site" defaultValue={before?.site ?? ""} className={FIELD}>
          <option value="">every site</option>
          {board?.sites.map(({ slug, name }) => (
            <option key={slug} value={slug}>
              {name}
            </option>
          ))}
        </Select>
      </Field>
      <div className="flex items-end gap-2">
        <Field className="flex flex-col gap-1">
          <Label className="font-plate text-note">Sent to</Label>
          <Select value={by} onChange={(event) => setBy(event.target.value as "url" | "topic")} className={FIELD}>
            <option value="url">POST to an address</option>
            <option value="topic">a message on a topic</option>
          </Select>
        </Field>
        <Field className="flex min-w-0 flex-1 flex-col gap-1">
          <Label className="font-plate text-note">{by === "url" ? "Address" : "Topic"}</Label>
          <Input
            name="to"
            required
            maxLength={500}
            defaultValue={to}
            placeholder={by === "url" ? "https://desk.example/told" : "desk/told"}
            className={`${FIELD} font-mono text-note`}
          />
        </Field>
      </div>
      <fieldset className="col-span-2 max-md:col-span-1">
        <legend className="font-plate text-note">Events</legend>
        <div className="mt-1.5 flex flex-wrap gap-x-5 gap-y-2">
          <Tick label="alerts" checked={alerts} onChange={setAlerts} />
          <Tick label="every change of a channel" checked={changes} onChange={setChanges} />
          {TOLD.map((outcome) => (
            <Tick
              key={outcome}
              label={`outcome: ${outcomeWords(outcome)}`}
              checked={outcomes.includes(outcome)}
              onChange={(on) => pick(outcome, on)}
            />
          ))}
        </div>
      </fieldset>
      <div className="col-span-2 max-md:col-span-1">
        <Trouble>{trouble}</Trouble>
        <p className="mt-1 flex flex-wrap items-center gap-4">
          <Button type="submit" className={STRONG}>
            {before ? "Save" : "Add notification"}
          </Button>
          <Button onClick={onDone} className={QUIET}>
            Cancel
          </Button>
          {by === "url" && <span className="text-note text-soft">The host must be listed in BOLD_RELAY_MAY_CALL.</span>}
        </p>
      </div>
    </form>
  );
}

interface TickProps {
  readonly label: string;
  readonly checked: boolean;
  readonly onChange: (on: boolean) => void;
}

function Tick({ label, checked, onChange }: TickProps) {
  return (
    <Field className="flex items-center gap-2">
      <Checkbox
        checked={checked}
        onChange={onChange}
        className="flex size-4 items-center justify-center rounded-[2px] border border-soft bg-enclosure data-checked:border-act data-checked:bg-act"
      >
        <svg viewBox="0 0 12 12" aria-hidden="true" className={`size-3 stroke-letters ${checked ? "" : "hidden"}`}>
          <path d="M2 6.5 5 9l5-6" fill="none" strokeWidth="2" />
        </svg>
      </Checkbox>
      <Label className="text-note">{label}</Label>
    </Field>
  );
}
