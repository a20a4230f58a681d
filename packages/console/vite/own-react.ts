/** React has had this hook since version 18; the router still asks a package for it, for older ones. */
export { useSyncExternalStore } from "react";
