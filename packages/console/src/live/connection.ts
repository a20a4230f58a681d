/** Whether what is shown is kept as the service is, for every page. */
import { createContext, useContext } from "react";

/** `since`: until when what is shown was true, ms since 1970. */
export type LiveState = { readonly connected: true } | { readonly connected: false; readonly since: number };

const Connection = createContext<LiveState>({ connected: true });

export const ConnectionProvider = Connection.Provider;

export function useConnection(): LiveState {
  return useContext(Connection);
}
