/** Removing a member, in two presses. Keys of inlets that they have created are listed, and revoked with the second press if wanted. */
import type { KeyView } from "@bold-relay/api";
import { useState } from "react";
import { useKeys } from "../../api/queries.ts";
import { Button } from "../../parts/button.tsx";
import { QUIET } from "../../parts/form.tsx";

const SURE = "font-semibold text-note text-wrong underline underline-offset-2";

interface RemoveMemberProps {
  readonly name: string;
  readonly onRemove: (inletKeys: "keep" | "revoke") => void;
}

export function RemoveMember({ name, onRemove }: RemoveMemberProps) {
  const { data: keys = [] } = useKeys();
  const [asked, setAsked] = useState(false);
  if (!asked)
    return (
      <Button onClick={() => setAsked(true)} className={QUIET}>
        Remove member
      </Button>
    );
  const theirs = keys.filter(({ inlet, createdBy, creatorIsGone }) => inlet && createdBy === name && !creatorIsGone);
  return (
    <span className="flex flex-wrap items-center gap-x-3 gap-y-1">
      {theirs.length === 0 ? (
        <Button onClick={() => onRemove("keep")} className={SURE}>
          Remove {name}, with all sessions and keys
        </Button>
      ) : (
        <>
          <span className="text-note">{keysText(name, theirs)}</span>
          <Button onClick={() => onRemove("revoke")} className={SURE}>
            Remove {name} and revoke these keys
          </Button>
          <Button onClick={() => onRemove("keep")} className={SURE}>
            Remove {name} only
          </Button>
        </>
      )}
      <Button onClick={() => setAsked(false)} className={QUIET}>
        Cancel
      </Button>
    </span>
  );
}

/** "Rui created these keys of inlets: tablet (hall-tablet)." */
function keysText(name: string, keys: readonly KeyView[]): string {
  return `${name} created these keys of inlets: ${keys.map((key) => `${key.name} (${key.inlet})`).join(", ")}.`;
}
