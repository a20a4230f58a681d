/** The steps of the first run: done is only what something proves. */
import type { DeviceView, InletView } from "@bold-relay/api";
import { describe, expect, it } from "vitest";
import { currentStep, type SetupFacts, STEPS, setupSteps } from "../../src/pages/setup/steps.ts";

const up = { up: true, roundTripMs: 0.62, trouble: null } as SetupFacts["broker"];
const device = (more: object): DeviceView =>
  ({
    name: "bench board",
    room: { name: "Bench" },
    channels: [{}, {}],
    presence: "never-heard",
    proof: null,
    ...more,
  }) as DeviceView;
const inlet = (lastAt: string | null): InletView => ({ name: "Porch", lastAt }) as InletView;
const EMPTY: SetupFacts = { member: { name: "Ines", role: "owner" }, broker: null, sites: [], devices: [], inlets: [] };
const current = (facts: Partial<SetupFacts>) => currentStep(setupSteps({ ...EMPTY, ...facts }))?.name ?? null;

describe("the first run", () => {
  it("goes on with the first step that nothing proves", () => {
    const sites = [{ name: "Alder Row" }];
    const online = device({ presence: "online" });
    const commissioned = device({ presence: "online", proof: { failed: 0 } });
    expect(setupSteps(EMPTY).map(({ name }) => name)).toEqual([...STEPS]);
    expect([
      current({}),
      current({ broker: up }),
      current({ broker: up, sites }),
      current({ broker: up, sites, devices: [device({})] }),
      current({ broker: up, sites, devices: [online] }),
      current({ broker: up, sites, devices: [commissioned] }),
      current({ broker: up, sites, devices: [commissioned], inlets: [inlet(null)] }),
      current({ broker: up, sites, devices: [commissioned], inlets: [inlet("2026-11-28T10:00:00Z")] }),
    ]).toEqual(["broker", "site", "device", "access", "commissioning", "inlet", "inlet", null]);
  });

  it("comes back to the broker when that goes away, and keeps what was done", () => {
    const facts = { sites: [{ name: "Alder Row" }], devices: [device({ presence: "offline" })] };
    expect(
      current({ ...facts, broker: { up: false, roundTripMs: null, trouble: "the broker is silent" } as never }),
    ).toBe("broker");
    expect(setupSteps({ ...EMPTY, ...facts }).find(({ name }) => name === "site")?.proof).toBe("Alder Row is a site.");
  });

  it("claims no commissioning that failed, and no device that was only described", () => {
    const steps = setupSteps({
      ...EMPTY,
      broker: up,
      devices: [device({ presence: "offline", proof: { failed: 1 } })],
    });
    expect(Object.fromEntries(steps.map(({ name, proof }) => [name, proof]))).toMatchObject({
      broker: "The service is connected to the broker. A message to it and back took 0.6 ms.",
      device: "The bench board in Bench has 2 channels.",
      access: null,
      commissioning: null,
    });
  });
});
