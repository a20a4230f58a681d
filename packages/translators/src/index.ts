/** Translators: what stands between a command topic and a device that speaks no MQTT. */
export { checksum, encodeFrame, FrameReader } from "./frame.ts";
export { checkPlan, type Plan, planMistakes, readPlan, type TranslatedDevice } from "./plan.ts";
export { startTranslatorHost, type TranslatorHost } from "./translator-host.ts";
