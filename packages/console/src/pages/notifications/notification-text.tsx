/** A notification as YAML, with its versions. */
import type { NotificationDescription } from "@bold-relay/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { stringify } from "yaml";
import { client } from "../../api/client.ts";
import { Button } from "../../parts/button.tsx";
import { readDescription } from "../../parts/description-text.ts";
import { DescriptionEditor } from "../../parts/editor/description-editor.tsx";
import { QUIET, STRONG, Trouble } from "../../parts/form.tsx";
import { refreshDescriptions } from "../../parts/refresh.ts";
import { Versions } from "../../parts/versions.tsx";

interface NotificationTextProps {
  readonly notification: NotificationDescription;
  readonly version: number;
  readonly onDone: () => void;
}

const check = (draft: object) => client.checkDescription("notification", draft);

export default function NotificationText({ notification, version, onDone }: NotificationTextProps) {
  const queries = useQueryClient();
  const [text, setText] = useState(() => stringify(notification));
  const [trouble, setTrouble] = useState<string | null>(null);
  const save = async () => {
    const draft = readDescription<NotificationDescription>(text);
    if ("wrong" in draft) return setTrouble(draft.wrong);
    try {
      await client.saveNotification(draft, draft.slug === notification.slug ? version : 0);
      await refreshDescriptions(queries);
      onDone();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <section aria-label={`${notification.name} as YAML`} className="mt-3 border-act border-l-[3px] bg-sheet px-4 py-4">
      <DescriptionEditor
        kind="notification"
        label="Notification, YAML"
        text={text}
        onChange={setText}
        site={null}
        check={check}
        lines={[8, 20]}
        showsChanges
      />
      <Trouble>{trouble}</Trouble>
      <p className="mt-3 flex gap-4">
        <Button onClick={() => void save()} className={STRONG}>
          Save
        </Button>
        <Button onClick={onDone} className={QUIET}>
          Cancel
        </Button>
      </p>
      <Versions kind="notification" slug={notification.slug} version={version} />
    </section>
  );
}
