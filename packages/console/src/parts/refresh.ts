/** What pages read of descriptions is read again after one changed. */
import type { QueryClient } from "@tanstack/react-query";
import { names } from "../api/operate.ts";

/** After a description changed, whatever is read of descriptions is read again. */
export async function refreshDescriptions(queries: QueryClient): Promise<void> {
  const changed = [
    names.sites,
    names.devices,
    names.board,
    names.inlets,
    names.notifications,
    names.versions,
    ["profiles"],
  ];
  await Promise.all(changed.map((queryKey) => queries.invalidateQueries({ queryKey })));
}
