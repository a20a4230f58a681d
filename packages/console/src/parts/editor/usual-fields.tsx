/** The fields of a description that are changed most, as a form. It edits the same text as the editor beside it. */
import type { DescriptionKind } from "@bold-relay/api";
import { Description, Field, Input, Label, Select } from "@headlessui/react";
import { useSchema } from "../../api/queries.ts";
import { FIELD } from "../form.tsx";
import { nodesAt, type Path, type SchemaNode, valuesOf } from "./schema-node.ts";
import { fieldIn, withField } from "./set-field.ts";

export interface UsualField {
  readonly path: readonly string[];
  readonly label: string;
  /** What may be chosen, where no schema knows; "" takes the field out. */
  readonly choices?: readonly (readonly [value: string, shown: string])[];
  /** An empty field is null, where null means something. */
  readonly emptyIsNull?: true;
  /** Said in place of the schema's description. */
  readonly hint?: string;
}

interface UsualFieldsProps {
  readonly kind: DescriptionKind;
  /** Where in a description of this kind the text stands; empty: it is the whole. */
  readonly within?: Path;
  readonly text: string;
  readonly onChange: (text: string) => void;
  readonly fields: readonly UsualField[];
}

export function UsualFields({ kind, within = [], text, onChange, fields }: UsualFieldsProps) {
  const schema = useSchema(kind) as SchemaNode | undefined;
  if (!schema) return null;
  return (
    <div className="grid grid-cols-[repeat(auto-fill,minmax(200px,1fr))] gap-x-5 gap-y-3">
      {fields.map((field) => (
        <UsualFieldInput
          key={field.path.join(".")}
          field={field}
          nodes={nodesAt(schema, [...within, ...field.path], undefined)}
          value={fieldIn(text, field.path)}
          onChange={(value) => onChange(withField(text, field.path, value))}
        />
      ))}
    </div>
  );
}

interface UsualFieldInputProps {
  readonly field: UsualField;
  readonly nodes: readonly SchemaNode[];
  readonly value: unknown;
  readonly onChange: (value: unknown) => void;
}

function UsualFieldInput({ field, nodes, value, onChange }: UsualFieldInputProps) {
  const values = valuesOf(nodes);
  const choices =
    field.choices ??
    (values.length > 0 ? [["", "default"] as const, ...values.map((one) => [one, one] as const)] : null);
  const shown = value === undefined || value === null ? "" : String(value);
  const isNumber = nodes.some(({ type = [] }) => ["number", "integer"].some((one) => type.includes(one)));
  const set = (written: string) =>
    onChange(written === "" && field.emptyIsNull ? null : readField(written, isNumber, values));
  const about = field.hint ?? nodes.find(({ description }) => description)?.description;
  return (
    <Field className="flex flex-col gap-1">
      <Label className="font-plate text-note">{field.label}</Label>
      {choices ? (
        <Select value={shown} onChange={(event) => set(event.target.value)} className={FIELD}>
          {choices.map(([one, words]) => (
            <option key={one} value={one}>
              {words}
            </option>
          ))}
        </Select>
      ) : (
        <Input
          value={shown}
          placeholder={isNumber ? "default" : undefined}
          inputMode={isNumber ? "numeric" : undefined}
          onChange={(event) => set(event.target.value)}
          className={FIELD}
        />
      )}
      {about && <Description className="text-note text-soft">{about}</Description>}
    </Field>
  );
}

/** As it stands in a description: numbers and truth values are such; what is empty is not there. */
function readField(written: string, isNumber: boolean, values: readonly string[]): unknown {
  if (written === "") return undefined;
  if (isNumber && /^-?\d+(?:\.\d+)?$/.test(written)) return Number(written);
  return values.includes("true") && (written === "true" || written === "false") ? written === "true" : written;
}
