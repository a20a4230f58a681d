/** That a description was deleted, with the way back. */
import { type DescriptionKind, restoreVersion, versionBefore } from "@bold-relay/api";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client } from "../api/client.ts";
import { Button } from "./button.tsx";
import { QUIET, Trouble } from "./form.tsx";
import { refreshDescriptions } from "./refresh.ts";

/** What is kept, and what undoing does not bring back. */
const KEPT: Readonly<Record<Exclude<DescriptionKind, "inlet">, string>> = {
  site: "Log and history stay. Undo does not bring back the roles that members had there.",
  profile: "Undo brings it back as it was.",
  notification: "Undo does not bring back its delivery log and its signing secret.",
};

export function Deleted({
  kind,
  slug,
  name,
  onDone,
}: {
  kind: keyof typeof KEPT;
  slug: string;
  name: string;
  onDone: () => void;
}) {
  const queries = useQueryClient();
  const [trouble, setTrouble] = useState<string | null>(null);
  const undo = async () => {
    try {
      const before = versionBefore(await client.versions(kind, slug));
      if (before) await restoreVersion(client, kind, slug, before.version);
      await refreshDescriptions(queries);
      onDone();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <div role="status" className="mt-3 border-act border-l-[3px] bg-act-wash px-4 py-2 text-note">
      <p className="flex flex-wrap gap-x-4">
        {name} is deleted. {KEPT[kind]}
        <Button onClick={() => void undo()} className={QUIET}>
          Undo
        </Button>
        <Button onClick={onDone} className={QUIET}>
          Close
        </Button>
      </p>
      <Trouble>{trouble}</Trouble>
    </div>
  );
}
