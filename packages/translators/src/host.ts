/** What runs translators. Apart from `index.ts`: it loads an MQTT client and a YAML reader, which most installations never need. */
export { readPlan } from "./plan-file.ts";
export { startTranslatorHost, type TranslatorHost } from "./translator-host.ts";
