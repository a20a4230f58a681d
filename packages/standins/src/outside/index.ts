/** Simulated devices that speak no MQTT. */
export * from "./contacts.ts";
export * from "./http-board.ts";
export * from "./lamp-string.ts";
export * from "./line-board.ts";
export * from "./poller.ts";
export * from "./radio-gateway.ts";
export * from "./services.ts";
