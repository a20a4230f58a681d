/** What on the map is unused, cannot act, or is open to more than its owner may think. */
import type { MapFindingView } from "@bold-relay/api";
import { type MapFindingKind, mapFindingWords } from "@bold-relay/core";
import { Button } from "../../parts/button.tsx";
import { TableHead } from "../../parts/table-head.tsx";

/** These may hurt somebody. */
const DANGEROUS: readonly MapFindingKind[] = ["open-to-anyone", "caught-twice"];

interface MapFindingsProps {
  readonly findings: readonly MapFindingView[];
  readonly onChoose: (id: string) => void;
}

export function MapFindings({ findings, onChoose }: MapFindingsProps) {
  if (findings.length === 0) return <p className="text-soft">No problems found.</p>;
  return (
    <div className="overflow-x-auto">
      <table className="w-full min-w-[640px] text-left print:min-w-0 text-note">
        <TableHead titles={["Finding", "Element", "Reason"]} />
        <tbody>
          {findings.map(({ kind, element, name, text }) => (
            <tr key={`${kind} ${element} ${text}`} className="border-hairline border-b align-top">
              <td className={`py-1.5 pr-4 ${DANGEROUS.includes(kind) ? "font-semibold text-wrong" : ""}`}>
                {mapFindingWords[kind]}
              </td>
              <td className="py-1.5 pr-4">
                <Button onClick={() => onChoose(element)} className="text-left text-act hover:underline">
                  {name}
                </Button>
              </td>
              <td className="py-1.5">{text}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
