/** What a way to reach a device says of itself. */
import type { ObjectSchema } from "joi";
import type { DescribedDevice } from "../described-device.ts";
import type { DeviceDriver } from "../device-driver.ts";

export interface ReachKind<Reach> {
  /** One line for help and documents. */
  readonly about: string;
  /** Its settings in a plan; `by` is its name in the index. */
  readonly schema: ObjectSchema<Reach>;
  /** Makes the driver of one device. Nothing is opened before its `start`. */
  open(device: DescribedDevice, reach: Reach, shared: SharedReaches): DeviceDriver;
}

/** What devices of one plan share: a serial line, the address at which they call. */
export interface SharedReaches {
  /** The thing of this name; made when it is first asked for. */
  the<Thing>(name: string, make: () => Thing): Thing;
}
