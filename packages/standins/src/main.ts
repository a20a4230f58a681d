/** Runs every board that the plan file describes, with their control address. */
import { readFile } from "node:fs/promises";
import { Command } from "commander";
import { startControl } from "./control.ts";
import { RelayBoard, type RelayBoardOptions } from "./relay-board.ts";

/** The plan file: where the broker is, and the boards with their credentials. */
interface Plan {
  readonly controlPort: number;
  readonly boards: readonly RelayBoardOptions[];
}

const program = new Command("standins").argument("<plan>", "JSON file with the boards").action(async (file: string) => {
  const plan = JSON.parse(await readFile(file, "utf8")) as Plan;
  const boards = plan.boards.map((options) => new RelayBoard(options));
  const control = await startControl(boards, plan.controlPort);
  await Promise.all(boards.map((board) => board.start()));
  process.stdout.write(`${boards.length} boards on the broker, control on port ${control.port}\n`);
  const stop = () => {
    void Promise.all([...boards.map((board) => board.stop()), control.stop()]).then(() => process.exit(0));
    setTimeout(() => process.exit(0), 1_000).unref();
  };
  process.once("SIGINT", stop);
  process.once("SIGTERM", stop);
});

program.parseAsync().catch((error: unknown) => {
  process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
  process.exit(1);
});
