/** Whether passkeys can be used here: the browser knows them, and they belong to a host name, which an address is not. */
import { browserSupportsWebAuthn } from "@simplewebauthn/browser";

export function canUsePasskeys(): boolean {
  const isAddress = /^[\d.]+$|:/.test(window.location.hostname);
  return browserSupportsWebAuthn() && !isAddress;
}
