import { ownKey, ownName } from "../../parts/ownKeys";
import { TypedField } from "../../parts/TypedField";

type OwnNameProps = { label: string; value: string; onDone: (key: string) => void };

/** What a map of a person's own is called: wetness, dust, edge wear. */
export function OwnName({ label, value, onDone }: OwnNameProps) {
  const handleDone = (name: string) => ownKey(name) !== value && onDone(ownKey(name));
  return (
    <TypedField
      label={label}
      title="Its name, such as wetness, dust, edge wear"
      placeholder="its name"
      value={ownName(value)}
      className="mt-1 w-[140px]"
      onDone={handleDone}
    />
  );
}
