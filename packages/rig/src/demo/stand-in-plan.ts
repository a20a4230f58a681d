/** The plan file of the stand-ins: a board for each device of the demo, and what the translators reach. */
import type { DeviceAccess } from "../broker.ts";
import type { Kept } from "./secrets.ts";
import { type DemoBoard, demoBoards, FAR_DEVICES, userName } from "./world.ts";

export function standInPlan(kept: Kept, { url, ca }: DeviceAccess): object {
  const isFar = (board: DemoBoard) => FAR_DEVICES.some((far) => isOf(far, board));
  const all = demoBoards();
  const boards = all
    .filter((board) => !isFar(board))
    .map((board) => {
      const device = `${board.site}/${board.device}`;
      const password = kept.devicePasswords[device];
      return {
        ...board,
        brokerUrl: url,
        ...(ca === undefined ? {} : { brokerCa: ca }),
        username: userName(device),
        password,
        switchMs: 6,
      };
    });
  const outside = all.filter(isFar).map(({ site, device, channels }) => {
    const by = FAR_DEVICES.find((far) => far.site === site && far.device === device)?.reach.by;
    return { by, site, device, channels };
  });
  return { controlPort: kept.ports.control, boards, outside, ports: kept.ports, mailboxKey: kept.mailboxKey };
}

function isOf(far: { site: string; device: string }, board: DemoBoard): boolean {
  return far.site === board.site && far.device === board.device;
}
