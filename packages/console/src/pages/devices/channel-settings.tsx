/** All settings of one channel: the usual ones as fields, every one as YAML. Both edit the same. */
import { type ChannelDescription, channelOf } from "@bold-relay/core";
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { stringify } from "yaml";
import { client } from "../../api/client.ts";
import { Button } from "../../parts/button.tsx";
import { readDescription } from "../../parts/description-text.ts";
import { DescriptionEditor } from "../../parts/editor/description-editor.tsx";
import { type UsualField, UsualFields } from "../../parts/editor/usual-fields.tsx";
import { QUIET, STRONG, Trouble, Twice } from "../../parts/form.tsx";
import { refreshDescriptions } from "../../parts/refresh.ts";
import { checkPart } from "./check-part.ts";

interface ChannelSettingsProps {
  readonly site: string;
  /** `device/channel` */
  readonly path: string;
  readonly first: ChannelDescription;
  readonly onClose: () => void;
}

/** Where a channel stands in a site. */
const WITHIN = ["rooms", 0, "devices", 0, "channels", 0];

const FIELDS: readonly UsualField[] = [
  { path: ["name"], label: "Name" },
  { path: ["kind"], label: "Kind", hint: "A change of the kind is refused while a command is open." },
  { path: ["index"], label: "Number on the device" },
  { path: ["reversed"], label: "Reversed" },
  { path: ["unit"], label: "Unit" },
  { path: ["range", "least"], label: "Least number of a setpoint" },
  { path: ["range", "most"], label: "Greatest number of a setpoint" },
  { path: ["range", "step"], label: "Step of a setpoint" },
  { path: ["delivery", "targetStage"], label: "Target stage" },
  { path: ["delivery", "ackWithinMs"], label: "Acknowledged within (ms)" },
  { path: ["delivery", "attempts"], label: "Attempts" },
  { path: ["delivery", "ttlMs"], label: "Time to live (ms)" },
  { path: ["delivery", "settleMs"], label: "Settles within (ms)" },
  { path: ["delivery", "powerUp"], label: "After a power cut" },
  { path: ["delivery", "safe"], label: "Safe state" },
  { path: ["delivery", "autoOffMs"], label: "Off by itself after (ms)" },
  { path: ["delivery", "holdForMs"], label: "Hold-to-run (ms)" },
  { path: ["delivery", "whenAbsent"], label: "While the device is offline" },
  { path: ["inAll"], label: "Switched by “everything”" },
];

export default function ChannelSettings({ site, path, first, onClose }: ChannelSettingsProps) {
  const queries = useQueryClient();
  const [text, setText] = useState(() => stringify(first));
  const [trouble, setTrouble] = useState<string | null>(null);
  const check = useCallback((draft: object) => checkPart(site, path, draft), [site, path]);
  const act = async (work: () => Promise<unknown>) => {
    setTrouble(null);
    try {
      await work();
      await refreshDescriptions(queries);
      onClose();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  const save = () =>
    act(async () => {
      const draft = readDescription<ChannelDescription>(text);
      if ("wrong" in draft) throw new Error(draft.wrong);
      const { site: now, version } = await client.site(site);
      if (JSON.stringify(channelOf(now, path)) !== JSON.stringify(first))
        throw new Error(
          "Somebody else has changed this channel meanwhile. Nothing was saved. Close it and open it again.",
        );
      await client.changeSite(site, { edit: "put", part: "channels", name: path, fields: { ...draft } }, version);
    });
  const remove = () => act(() => client.changeSite(site, { edit: "delete", part: "channels", name: path }, null));
  return (
    <section aria-label={`Settings of ${first.name}`} className="mt-2 border-act border-l-[3px] bg-sheet px-4 py-4">
      <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-x-8 gap-y-5 max-[1023px]:grid-cols-1">
        <UsualFields kind="site" within={WITHIN} text={text} onChange={setText} fields={FIELDS} />
        <DescriptionEditor
          kind="site"
          within={WITHIN}
          label="Channel, YAML"
          text={text}
          onChange={setText}
          site={site}
          check={check}
          lines={[14, 34]}
          showsChanges
        />
      </div>
      <Trouble>{trouble}</Trouble>
      <p className="mt-3 flex flex-wrap items-baseline gap-4">
        <Button onClick={() => void save()} className={STRONG}>
          Save
        </Button>
        <Button onClick={onClose} className={QUIET}>
          Cancel
        </Button>
        <span className="ml-auto">
          <Twice
            verb="Delete channel"
            sure={`Delete ${first.name}. Log and history stay`}
            onSure={() => void remove()}
          />
        </span>
      </p>
    </section>
  );
}
