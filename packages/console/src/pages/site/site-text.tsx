/** A whole site as YAML. */
import type { SiteDescription } from "@bold-relay/core";
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { stringify } from "yaml";
import { client } from "../../api/client.ts";
import { Button } from "../../parts/button.tsx";
import { readDescription } from "../../parts/description-text.ts";
import { DescriptionEditor } from "../../parts/editor/description-editor.tsx";
import { QUIET, STRONG, Trouble } from "../../parts/form.tsx";
import { refreshDescriptions } from "../../parts/refresh.ts";

interface SiteTextProps {
  readonly site: SiteDescription;
  readonly version: number;
  readonly onClose: () => void;
}

export function SiteText({ site, version, onClose }: SiteTextProps) {
  const queries = useQueryClient();
  const [text, setText] = useState(() => stringify(site));
  /** What the text was made of: another version that comes meanwhile must not be overwritten. */
  const [madeFrom] = useState(version);
  const [trouble, setTrouble] = useState<string | null>(null);
  const check = useCallback((draft: object) => client.checkDescription("site", draft), []);
  const save = async () => {
    const draft = readDescription<SiteDescription>(text);
    if ("wrong" in draft) return setTrouble(draft.wrong);
    try {
      await client.saveSite(draft, madeFrom);
      await refreshDescriptions(queries);
      onClose();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <section aria-label="Site as YAML" className="mt-3 border-act border-l-[3px] bg-sheet px-4 py-4">
      <DescriptionEditor
        kind="site"
        label="Site, YAML"
        text={text}
        onChange={setText}
        site={site.slug}
        check={check}
        lines={[16, 34]}
        showsChanges
      />
      <Trouble>{trouble}</Trouble>
      <p className="mt-3 flex gap-4">
        <Button onClick={() => void save()} className={STRONG}>
          Save
        </Button>
        <Button onClick={onClose} className={QUIET}>
          Cancel
        </Button>
      </p>
    </section>
  );
}
