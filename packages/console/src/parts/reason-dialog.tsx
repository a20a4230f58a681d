/** Asks for a reason before something that another person may have to answer for. */
import { Dialog, DialogPanel, DialogTitle, Field, Input, Label } from "@headlessui/react";
import type { FormEvent } from "react";
import { Button } from "./button.tsx";

interface ReasonDialogProps {
  readonly open: boolean;
  readonly title: string;
  readonly text: string;
  /** What is done with the reason. */
  readonly verb: string;
  readonly trouble: string | null;
  readonly onClose: () => void;
  readonly onReason: (reason: string) => void;
}

export function ReasonDialog({ open, title, text, verb, trouble, onClose, onReason }: ReasonDialogProps) {
  function submit(event: FormEvent<HTMLFormElement>): void {
    event.preventDefault();
    onReason(String(new FormData(event.currentTarget).get("reason")));
  }
  return (
    <Dialog open={open} onClose={onClose} className="relative z-20">
      <div className="fixed inset-0 flex items-center justify-center bg-plate/40 p-4">
        <DialogPanel className="w-full max-w-[420px] border border-rule bg-sheet p-5">
          <DialogTitle className="text-title">{title}</DialogTitle>
          <p className="mt-2">{text}</p>
          <form onSubmit={submit} className="mt-4">
            <Field className="flex flex-col gap-1">
              <Label className="font-medium font-plate">Reason</Label>
              <Input
                name="reason"
                required
                maxLength={200}
                autoFocus
                className="h-9 rounded-key border border-soft bg-enclosure px-2.5"
              />
            </Field>
            {trouble && (
              <p role="alert" className="mt-2 text-note text-wrong">
                {trouble}
              </p>
            )}
            <div className="mt-4 flex gap-2">
              <Button type="submit" className="h-8 rounded-key bg-act px-3 font-semibold text-letters text-note">
                {verb}
              </Button>
              <Button onClick={onClose} className="h-8 rounded-key border border-soft px-3 font-semibold text-note">
                Cancel
              </Button>
            </div>
          </form>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
