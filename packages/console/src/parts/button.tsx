/** A button as pages draw it: the browser's own, which never submits a form unless it says so. */
import type { ComponentProps } from "react";

/** Takes everything that a `<button>` takes. @param type "submit" in the one that saves a form */
export function Button({ type = "button", ...rest }: ComponentProps<"button">) {
  return <button type={type} {...rest} />;
}
