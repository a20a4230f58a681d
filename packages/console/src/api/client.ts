/** All calls, for pages that need others than those of everyday work. */
import { createClient } from "@bold-relay/api";
import { signInAgain } from "./sign-in-again.ts";

export const client = createClient({ baseUrl: "", signInAgain });
