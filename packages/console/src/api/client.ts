/** All calls, for pages that need others than those of everyday work. */
import { createClient } from "@bold-relay/api";

export const client = createClient({ baseUrl: "" });
