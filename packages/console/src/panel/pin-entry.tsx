/** Large keys for a PIN. */
import type { PanelPinView } from "@bold-relay/api";
import { useState } from "react";
import { Button } from "../parts/button.tsx";
import { STRONG } from "../parts/form.tsx";
import type { PanelClient } from "./use-panel.ts";

interface PinEntryProps {
  readonly client: PanelClient;
  readonly onEntered: (entered: PanelPinView) => void;
}

const DIGITS = ["1", "2", "3", "4", "5", "6", "7", "8", "9"];
const MOST = 12;
const KEY = "h-16 rounded-key border border-soft text-page hover:border-act hover:text-act";

export function PinEntry({ client, onEntered }: PinEntryProps) {
  const [pin, setPin] = useState("");
  const [trouble, setTrouble] = useState<string | null>(null);
  const add = (digit: string) => setPin(`${pin}${digit}`.slice(0, MOST));
  const enter = async () => {
    try {
      onEntered(await client.enterPin(pin));
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
      setPin("");
    }
  };
  return (
    <main className="mx-auto flex max-w-[320px] flex-col px-5 pt-[8vh]">
      <h1 className="text-page">Enter the PIN</h1>
      <form
        className="mt-4 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void enter();
        }}
      >
        <input
          type="password"
          inputMode="numeric"
          autoComplete="off"
          aria-label="PIN"
          value={pin}
          onChange={(event) => setPin(event.target.value.replace(/\D/g, "").slice(0, MOST))}
          className="h-14 rounded-key border border-soft bg-enclosure px-4 text-center text-page tracking-[0.4em]"
        />
        {trouble && (
          <p role="alert" className="text-wrong">
            {trouble}
          </p>
        )}
        <div className="grid grid-cols-3 gap-2">
          {DIGITS.map((digit) => (
            <Button key={digit} onClick={() => add(digit)} className={KEY}>
              {digit}
            </Button>
          ))}
          <Button onClick={() => setPin(pin.slice(0, -1))} aria-label="Delete the last digit" className={KEY}>
            ←
          </Button>
          <Button onClick={() => add("0")} className={KEY}>
            0
          </Button>
          <Button type="submit" className={`${STRONG} h-16 text-title`}>
            Enter
          </Button>
        </div>
      </form>
    </main>
  );
}
