/** Every kind of inlet with its way in. One that is missing does not compile. */
import type { InletKind } from "@bold-relay/core";
import type { InletKindWay } from "../kind.ts";
import { callWay } from "./call.ts";
import { chatWay } from "./chat.ts";
import { deviceWay } from "./device.ts";
import { hookWay } from "./hook.ts";
import { keypadWay } from "./keypad.ts";
import { lineWay } from "./line.ts";
import { panelWay } from "./panel.ts";
import { sheetWay } from "./sheet.ts";
import { topicWay } from "./topic.ts";
import { webWay } from "./web.ts";

export const inletWays: Readonly<Record<InletKind, InletKindWay>> = {
  web: webWay,
  hook: hookWay,
  call: callWay,
  chat: chatWay,
  topic: topicWay,
  line: lineWay,
  sheet: sheetWay,
  keypad: keypadWay,
  device: deviceWay,
  panel: panelWay,
};
