/** Which roles need a second factor. */
import { ROLES, type Role } from "@bold-relay/core";
import { Checkbox, Field, Label } from "@headlessui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client } from "../../api/client.ts";
import { names } from "../../api/operate.ts";
import { SectionTitle, Trouble } from "../../parts/form.tsx";

export function FactorRule() {
  const queries = useQueryClient();
  const queryKey = [...names.team, "rules"];
  const { data: rules } = useQuery({ queryKey, queryFn: () => client.teamRules() });
  const [trouble, setTrouble] = useState<string | null>(null);
  if (!rules) return null;
  const set = async (role: Role, isNeeded: boolean) => {
    const secondFactorFor = ROLES.filter((one) => (one === role ? isNeeded : rules.secondFactorFor.includes(one)));
    setTrouble(null);
    await client.saveTeamRules({ secondFactorFor }).catch((error: Error) => setTrouble(error.message));
    await queries.invalidateQueries({ queryKey });
  };
  return (
    <section aria-label="Second factor">
      <SectionTitle>Second factor required for</SectionTitle>
      <div className="mt-3 flex flex-wrap gap-x-6 gap-y-2">
        {ROLES.map((role) => (
          <Field key={role} className="flex items-center gap-2">
            <Checkbox
              checked={rules.secondFactorFor.includes(role)}
              onChange={(isNeeded) => void set(role, isNeeded)}
              className="size-[18px] rounded-[2px] border border-soft bg-sheet text-center text-note leading-4 data-checked:border-act data-checked:bg-act data-checked:text-letters data-checked:before:content-['✓']"
            />
            <Label>{role}</Label>
          </Field>
        ))}
      </div>
      <p className="mt-2 text-note text-soft">
        Members with one of these roles and no second factor can open only their account, until they add one.
      </p>
      <Trouble>{trouble}</Trouble>
    </section>
  );
}
