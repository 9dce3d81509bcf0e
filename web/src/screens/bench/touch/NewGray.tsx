import { useState } from "react";
import { api, settled, type TextureSet } from "../../../api/client";
import { useSetChange } from "../../../api/queries";
import { Problem } from "../../../parts/grades";
import { ownKey } from "../../../parts/ownKeys";
import { TypedField } from "../../../parts/TypedField";

type NewGrayProps = { set: TextureSet; project: string; onChoose: (key: string) => void };

/** A gray of one's own, black until it is painted: a mask, wear, wetness. */
export function NewGray({ set, project, onChoose }: NewGrayProps) {
  const [isOpen, setOpen] = useState(false);
  const make = useSetChange(project, set.id, (expects, master: string) =>
    settled(
      api.POST("/api/sets/{set_id}/origins", {
        params: { path: { set_id: set.id } },
        body: { expects, master, origin: "one-value" },
      }),
    ),
  );
  const handleName = (name: string) => {
    if (!/[a-z0-9]/i.test(name.normalize("NFKD"))) return false;
    const key = ownKey(name);
    make.mutate(key, {
      onSuccess: () => {
        setOpen(false);
        onChoose(key);
      },
    });
  };
  return (
    <div className="flex flex-wrap items-center gap-1.5 py-2 pr-4 pl-[14px]">
      <button
        type="button"
        className="button"
        aria-expanded={isOpen}
        onClick={() => setOpen(!isOpen)}
      >
        New gray to paint
      </button>
      {isOpen && (
        <TypedField
          label="Name of the new gray"
          placeholder="wear, dust, wetness"
          value=""
          autoFocus
          className="w-40"
          onDone={handleName}
        />
      )}
      <Problem error={make.error} />
    </div>
  );
}
