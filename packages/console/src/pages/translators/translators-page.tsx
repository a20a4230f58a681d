/** The plan of a translator: begun from the devices behind it, checked as it is typed, kept as a file beside the translator. */
import type { DescriptionCheckView } from "@bold-relay/api";
import { Field, Label, Select } from "@headlessui/react";
import { useState } from "react";
import { Link } from "wouter";
import { client } from "../../api/client.ts";
import { useDevices } from "../../api/queries.ts";
import { Button } from "../../parts/button.tsx";
import { DescriptionEditor } from "../../parts/editor/description-editor.tsx";
import { FIELD, PAGE, QUIET, STRONG } from "../../parts/form.tsx";
import { planText, type REACHES } from "./plan-text.ts";

const check = async (plan: object): Promise<DescriptionCheckView> => ({
  version: 0,
  changes: [],
  reach: [],
  findings: (await client.checkPlan(plan)).findings,
});

const BROKER = "mqtt://127.0.0.1:1883";

export function TranslatorsPage() {
  const { data: devices } = useDevices();
  const behind = (devices ?? []).filter(({ profile }) => profile.slug === "behind-translator");
  const [chosen, setChosen] = useState("");
  const [reach, setReach] = useState<keyof typeof REACHES>("http");
  const [text, setText] = useState("");
  const begin = () => {
    const one = behind.filter(({ address }) => chosen === "" || address === chosen);
    setText(planText(BROKER, one, reach));
  };
  return (
    <div className={PAGE}>
      <Link to="/devices" className={QUIET}>
        Devices
      </Link>
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-2">
        <h1 className="text-page">Translator plans</h1>
        <p className="text-soft">
          A translator connects devices that speak no MQTT. Its plan is a file beside it, with the passwords of its
          devices. The service checks it and keeps nothing of it.
        </p>
      </header>
      <div className="mt-4 flex flex-wrap items-end gap-3">
        <Field className="flex flex-col gap-1">
          <Label className="font-plate text-note">Device</Label>
          <Select value={chosen} onChange={(event) => setChosen(event.target.value)} className={FIELD}>
            <option value="">every device with the profile behind-translator ({behind.length})</option>
            {behind.map(({ address, name }) => (
              <option key={address} value={address}>
                {address}, {name}
              </option>
            ))}
          </Select>
        </Field>
        <Field className="flex flex-col gap-1">
          <Label className="font-plate text-note">Reached by</Label>
          <Select
            value={reach}
            onChange={(event) => setReach(event.target.value as keyof typeof REACHES)}
            className={FIELD}
          >
            <option value="http">HTTP addresses</option>
            <option value="lines">typed lines</option>
          </Select>
        </Field>
        <Button onClick={begin} disabled={behind.length === 0} className={`${STRONG} disabled:opacity-50`}>
          Start a plan
        </Button>
      </div>
      <p className="mt-1.5 text-note text-soft">Or paste a plan that you have.</p>
      <div className="mt-4">
        <DescriptionEditor
          kind={null}
          label="Plan, YAML"
          text={text}
          onChange={setText}
          site={null}
          check={check}
          lines={[16, 34]}
        />
      </div>
      {text !== "" && (
        <p className="mt-3 flex flex-wrap items-baseline gap-x-5 gap-y-2">
          <a
            href={`data:application/yaml;charset=utf-8,${encodeURIComponent(text)}`}
            download="plan.yaml"
            className={QUIET}
          >
            Download plan.yaml
          </a>
          <span className="text-note text-soft">
            Start it with <code className="font-mono">bold-relay-translate plan.yaml</code>.
          </span>
        </p>
      )}
    </div>
  );
}
