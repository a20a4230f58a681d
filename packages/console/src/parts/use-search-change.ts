/** What a page shows, kept in its address, so that it can be sent to somebody. */
import { useSearchParams } from "wouter";

/** @returns the words of the address, and a way to change some of them; empty or undefined takes one away */
export function useSearchChange<Name extends string>(): [
  URLSearchParams,
  (changed: { readonly [Key in Name]?: string | undefined }) => void,
] {
  const [params, setParams] = useSearchParams();
  const change = (changed: { readonly [Key in Name]?: string | undefined }) =>
    setParams(
      (before) => {
        for (const [name, value] of Object.entries<string | undefined>(changed)) {
          if (value) before.set(name, value);
          else before.delete(name);
        }
        return before;
      },
      { replace: true },
    );
  return [params, change];
}
