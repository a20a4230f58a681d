/** The versions of a description: who saved them, what going back would change, and back. */
import { type DescriptionKind, type DescriptionVersionView, restoreVersion, versionBefore } from "@bold-relay/api";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client } from "../api/client.ts";
import { useVersions } from "../api/queries.ts";
import { Button } from "./button.tsx";
import { Changes } from "./findings.tsx";
import { QUIET, SectionTitle, Trouble } from "./form.tsx";
import { refreshDescriptions } from "./refresh.ts";
import { when } from "./time.ts";

interface VersionsProps {
  readonly kind: DescriptionKind;
  readonly slug: string;
  /** Read again when another version is in effect. */
  readonly version: number;
}

/** Versions that are listed before one asks for all. */
const FIRST = 5;

export function Versions({ kind, slug, version }: VersionsProps) {
  const { data: versions } = useVersions(kind, slug, version);
  const queries = useQueryClient();
  const [compared, setCompared] = useState<DescriptionVersionView | null>(null);
  const [all, setAll] = useState(false);
  const [trouble, setTrouble] = useState<string | null>(null);
  const act = async (work: () => Promise<void>) => {
    setTrouble(null);
    await work().catch((error: Error) => setTrouble(error.message));
  };
  const compare = (one: number) => act(async () => setCompared(await client.version(kind, slug, one)));
  const restore = (one: number) =>
    act(async () => {
      await restoreVersion(client, kind, slug, one);
      setCompared(null);
      await refreshDescriptions(queries);
    });
  if (!versions || versions.length === 0) return null;
  const before = versionBefore(versions);
  return (
    <section aria-label="Versions">
      <SectionTitle>Versions</SectionTitle>
      <ul>
        {versions.slice(0, all ? undefined : FIRST).map((one) => (
          <li key={one.version} className="border-hairline border-b py-1.5 text-note">
            <span className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
              <span className="min-w-[84px] font-medium">Version {one.version}</span>
              <span className="text-soft">
                {one.savedAt === null
                  ? "saved before versions were kept"
                  : `${when.clock(one.savedAt)}, ${one.savedBy}`}
              </span>
              {one.current ? (
                <strong className="ml-auto font-semibold">in effect</strong>
              ) : (
                <span className="ml-auto flex gap-4">
                  <Button
                    onClick={() => (compared?.version === one.version ? setCompared(null) : void compare(one.version))}
                    aria-expanded={compared?.version === one.version}
                    aria-label={`Compare version ${one.version}`}
                    className={QUIET}
                  >
                    Compare
                  </Button>
                  <Button onClick={() => void restore(one.version)} className={QUIET}>
                    {one.version === before?.version ? "Undo last change" : `Restore version ${one.version}`}
                  </Button>
                </span>
              )}
            </span>
            {compared?.version === one.version && <Changes changes={compared.changes} />}
          </li>
        ))}
      </ul>
      {versions.length > FIRST && !all && (
        <Button onClick={() => setAll(true)} className={`${QUIET} mt-2`}>
          Show all {versions.length} versions
        </Button>
      )}
      <Trouble>{trouble}</Trouble>
    </section>
  );
}
