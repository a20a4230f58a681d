/** Translators: what stands between a command topic and a device that speaks no MQTT. What runs them is in `host.ts`. */
export { checksum, encodeFrame, FrameReader } from "./frame.ts";
export { checkPlan, type Plan, planMistakes, type TranslatedDevice } from "./plan.ts";
