/** Moments in the form of the reader of this page. */
import { timeForms } from "@bold-relay/core";

export const when = timeForms(Date.now);
