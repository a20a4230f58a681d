/** The first run, step by step. What is done says what proved it; the first step that is not done is open. */
import { Link, Redirect } from "wouter";
import { useBoard, useStatus } from "../../api/board.ts";
import { useDevices, useInlets } from "../../api/queries.ts";
import { useMay, useSession } from "../../api/session.ts";
import { PAGE } from "../../parts/form.tsx";
import { SiteForm } from "../devices/site-form.tsx";
import { AccessStep, BrokerStep, CommissioningStep, DeviceStep } from "./device-steps.tsx";
import { InletStep } from "./inlet-step.tsx";
import { currentStep, type SetupStep, setupSteps } from "./steps.ts";

export function SetupPage() {
  const { data: session } = useSession();
  const mayBuild = useMay("build");
  const { data: status } = useStatus();
  const { data: board } = useBoard();
  const { data: devices } = useDevices();
  const { data: inlets } = useInlets();
  if (session && !mayBuild) return <Redirect to="/board" replace />;
  if (!session || !board || !devices || !inlets) return null;
  const member = { name: session.name, role: session.role ?? "member" };
  const steps = setupSteps({ member, broker: status?.broker ?? null, sites: board.sites, devices, inlets });
  const current = currentStep(steps);
  const done = steps.filter(({ proof }) => proof !== null).length;
  return (
    <div className={`${PAGE} max-w-[860px]`}>
      <header className="flex flex-wrap items-baseline gap-x-4">
        <h1 className="text-page">Set-up</h1>
        <p className="text-soft">
          {done} of {steps.length} steps done
        </p>
      </header>
      <ol className="mt-4 border-ink border-t">
        {steps.map((step, index) => (
          <li key={step.name} className="grid grid-cols-[36px_minmax(0,1fr)] border-hairline border-b py-3">
            <Mark number={index + 1} done={step.proof !== null} current={step === current} />
            <div className="min-w-0">
              <h2 className={`font-plate ${step === current ? "font-semibold" : "font-medium"}`}>
                {step.title}
                {step.proof === null && step !== current && <span className="sr-only">, not done</span>}
              </h2>
              {step.proof !== null && <p className="text-note text-soft">{step.proof}</p>}
              {step === current && <Work step={step} />}
            </div>
          </li>
        ))}
      </ol>
      {current === null ? (
        <Done />
      ) : (
        <p className="mt-4 text-note text-soft">
          You can leave this page at any time. It continues at the step that is open.
        </p>
      )}
    </div>
  );
}

/** Its number; filled once it is done. */
function Mark({ number, done, current }: { number: number; done: boolean; current: boolean }) {
  const look = done ? "bg-ink text-sheet" : current ? "border-2 border-act text-act" : "border border-soft text-soft";
  return (
    <span className={`flex size-[22px] items-center justify-center rounded-full font-plate text-note ${look}`}>
      {number}
      <span className="sr-only">{done ? ", done" : current ? ", open" : ""}</span>
    </span>
  );
}

function Work({ step: { name } }: { step: SetupStep }) {
  switch (name) {
    case "owner":
      return null;
    case "broker":
      return <BrokerStep />;
    case "site":
      return <SiteForm />;
    case "device":
      return <DeviceStep />;
    case "access":
      return <AccessStep />;
    case "commissioning":
      return <CommissioningStep />;
    case "inlet":
      return <InletStep />;
  }
}

const NEXT = [
  ["/board", "Board", "switch it, and see what it is"],
  ["/devices", "Devices", "add the other devices"],
  ["/inlets", "Inlets", "add more ways to send requests"],
  ["/access", "Access", "add members and give them roles"],
  ["/account", "Account", "add a second factor to your own sign-in"],
] as const;

function Done() {
  return (
    <section aria-label="Next" className="mt-6">
      <p className="font-plate font-semibold">All steps are done. Next:</p>
      <ul className="mt-2">
        {NEXT.map(([to, name, what]) => (
          <li key={to} className="py-1">
            <Link to={to} className="font-medium text-act underline-offset-2 hover:underline">
              {name}
            </Link>
            <span className="text-soft">: {what}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
