import { useState } from "react";
import type { Control, Operation, TextureSet } from "../../api/client";
import { ByKind, type Told } from "./ByKind";
import type { Edit } from "./edit";
import { isMoved, ofNode } from "./params";

type Master = TextureSet["masters"][number];
type ControlsProps = {
  master: Master;
  node: string;
  operation: Operation;
  edit: Edit;
  isMask?: boolean;
};

/**
 * The controls of one step, from its operation's own table; what is seldom moved stays folded away
 * until it was.
 */
export function Controls({ master, node, operation, edit, isMask = false }: ControlsProps) {
  const inputs = edit.recipe.nodes[node]?.inputs ?? {};
  const fields = operation.params.filter(
    ({ needs }) => needs === null || needs in inputs, // what would not act is not shown
  );
  return <Fields {...{ master, edit, isMask, fields }} node={node} kept={ofNode(edit, node)} />;
}

type FieldsProps = Omit<Told, "field"> & { fields: Control[] };

/** Controls of some parameters, wherever their values are kept. */
export function Fields({ fields, kept, ...rest }: FieldsProps) {
  const seldom = fields.filter((field) => field.is_seldom);
  const [isOpen, setOpen] = useState(() => seldom.some((field) => isMoved(kept, field)));
  const shown = fields.filter((field) => !field.is_seldom || isOpen);
  return (
    <div className="flex flex-col gap-2 py-2 pr-4 pl-8">
      {shown.map((field) => (
        <ByKind key={field.name} {...{ field, kept }} {...rest} />
      ))}
      {seldom.length > 0 && (
        <button
          type="button"
          className="self-start text-sm text-ink2 underline"
          aria-expanded={isOpen}
          onClick={() => setOpen(!isOpen)}
        >
          {isOpen ? "Less" : `More: ${seldom.map(({ title }) => title.toLowerCase()).join(", ")}`}
        </button>
      )}
    </div>
  );
}
