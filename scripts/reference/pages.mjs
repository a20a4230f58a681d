// Every page that is made of the code, by its file.
import { callsPage } from "./calls.mjs";
import { commandLinePage } from "./command-line.mjs";
import { configurationPage } from "./configuration.mjs";
import { errorsPage } from "./errors.mjs";
import { filesPage } from "./files.mjs";
import { metricsPage } from "./metrics.mjs";

/** Text by path from the root of the repository. */
export function referencePages() {
  return {
    "docs/reference/calls.md": callsPage(),
    "docs/reference/command-line.md": commandLinePage(),
    "docs/reference/configuration.md": configurationPage(),
    "docs/reference/errors.md": errorsPage(),
    "docs/reference/files.md": filesPage(),
    "docs/reference/metrics.md": metricsPage(),
  };
}
