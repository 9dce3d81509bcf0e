import { useState } from "react";
import { useQuantities } from "../../api/tables";
import { Choice } from "../../parts/Choice";
import { NumberField } from "../../parts/NumberField";

const MASTERS = ["roughness", "metallic", "occlusion", "opacity", "reflectance"];

type OneValueProps = { onDone: (master: string, title: string, value: number) => void };

/** One map of the selected sets as a single value; maps that were given stay. */
export function OneValue({ onDone }: OneValueProps) {
  const [master, setMaster] = useState("");
  const quantities = useQuantities();
  const titleOf = (key: string) => quantities.find((one) => one.key === key)?.title ?? key;
  return (
    <span className="flex items-center gap-1.5">
      <Choice
        label="Give the selected sets one value"
        className="w-32"
        value={master}
        options={[["", "One value …"], ...MASTERS.map((key) => [key, titleOf(key)] as const)]}
        onChange={setMaster}
      />
      {master && (
        <NumberField
          label={`${titleOf(master)} of the selected sets`}
          className="w-20"
          value=""
          placeholder="0 to 1"
          low={0}
          high={1}
          unit=""
          onDone={(value) => {
            if (value === null) return;
            onDone(master, titleOf(master), value);
            setMaster("");
          }}
        />
      )}
    </span>
  );
}
