/** A change of one site: what it would change first, then for good, unless somebody else was quicker. */
import type { SitePlanView } from "@bold-relay/api";
import type { SiteDescription } from "@bold-relay/core";
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client } from "../../api/client.ts";
import { refreshDescriptions } from "../../parts/refresh.ts";

/**
 * @param changed the site as it would be; throws an Error that says what is missing
 * @param stands what the form was drawn from: it is not saved over what somebody else made of it meanwhile
 * @returns `submit` for a form whose buttons have the values "check" and "save"
 */
export function useSiteChange(
  slug: string,
  changed: (site: SiteDescription) => SiteDescription,
  onSaved: () => void,
  stands?: { readonly part: (site: SiteDescription) => unknown; readonly opened: unknown },
) {
  const queries = useQueryClient();
  const [plan, setPlan] = useState<SitePlanView | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);

  async function submit(event: FormEvent<HTMLFormElement>): Promise<void> {
    event.preventDefault();
    const isSave = (event.nativeEvent as SubmitEvent).submitter?.getAttribute("value") === "save";
    setTrouble(null);
    try {
      const { site, version } = await client.site(slug);
      if (stands && JSON.stringify(stands.part(site)) !== JSON.stringify(stands.opened))
        throw new Error(
          "Somebody else has changed this meanwhile. Nothing was saved. Close the form and open it again.",
        );
      const next = changed(site);
      if (!isSave) return setPlan(await client.checkSite(next));
      await client.saveSite(next, version);
      await refreshDescriptions(queries);
      onSaved();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  }

  return { plan, trouble, submit, forgetPlan: () => setPlan(null) };
}
