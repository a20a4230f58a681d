/** One part of a site is changed: previewed, then for good, unless somebody else changed the same part meanwhile. */
import type { SitePlanView } from "@bold-relay/api";
import type { SiteDescription, SiteEdit } from "@bold-relay/core";
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client } from "../../api/client.ts";
import { refreshDescriptions } from "../../parts/refresh.ts";

/** What a form or a row was drawn from, to be compared with what there is when it is saved. */
export type PartOf = (site: SiteDescription) => unknown;

/**
 * @param drawn the site that the page was drawn from
 * @param part that the edit is about
 */
export function usePartEdit(drawn: SiteDescription, part: PartOf, onSaved: () => void = () => {}) {
  const queries = useQueryClient();
  const [plan, setPlan] = useState<SitePlanView | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  /** As it was when the form was opened: what is drawn may be read again meanwhile. */
  const [opened] = useState(() => JSON.stringify(part(drawn) ?? null));

  async function change(edit: SiteEdit, preview: boolean): Promise<void> {
    setTrouble(null);
    try {
      const { site, version } = await client.site(drawn.slug);
      if (JSON.stringify(part(site) ?? null) !== opened)
        throw new Error(
          "Somebody else has changed this meanwhile. Nothing was saved. Close the form and open it again.",
        );
      const told = await client.changeSite(drawn.slug, edit, version, preview);
      if (preview) return setPlan(told);
      await refreshDescriptions(queries);
      onSaved();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
  }

  /** Of a form whose buttons have the values "check" and "save". */
  const submit = (edit: () => SiteEdit) => (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const isSave = (event.nativeEvent as SubmitEvent).submitter?.getAttribute("value") === "save";
    void change(edit(), !isSave);
  };

  return { plan, trouble, change, submit, forgetPlan: () => setPlan(null) };
}
