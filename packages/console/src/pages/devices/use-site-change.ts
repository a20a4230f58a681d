/** A change of one site: what it would change first, then for good, unless somebody else was quicker. */
import type { SitePlanView } from "@bold-relay/api";
import type { SiteDescription } from "@bold-relay/core";
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, names } from "../../api/queries.ts";

/**
 * @param changed the site as it would be; throws an Error that says what is missing
 * @returns `submit` for a form whose buttons have the values "check" and "save"
 */
export function useSiteChange(slug: string, changed: (site: SiteDescription) => SiteDescription, onSaved: () => void) {
  const queries = useQueryClient();
  const [plan, setPlan] = useState<SitePlanView | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);

  async function submit(event: FormEvent<HTMLFormElement>): Promise<void> {
    event.preventDefault();
    const isSave = (event.nativeEvent as SubmitEvent).submitter?.getAttribute("value") === "save";
    setTrouble(null);
    try {
      const { site, version } = await client.site(slug);
      const next = changed(site);
      if (!isSave) return setPlan(await client.checkSite(next));
      await client.saveSite(next, version);
      await queries.invalidateQueries({ queryKey: names.devices });
      onSaved();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  }

  return { plan, trouble, submit, forgetPlan: () => setPlan(null) };
}
