import { ownKey, ownName } from "./kinds";

type OwnNameProps = { label: string; value: string; onDone: (key: string) => void };

/** What a map of a person's own is called: wetness, dust, edge wear. */
export function OwnName({ label, value, onDone }: OwnNameProps) {
  const handleDone = (name: string) => ownKey(name) !== value && onDone(ownKey(name));
  return (
    <input key={value} aria-label={label} title="Its name, such as wetness, dust, edge wear" placeholder="its name" defaultValue={ownName(value)} className="field mt-1 w-[140px]"
      onBlur={(e) => handleDone(e.currentTarget.value)} onKeyDown={(e) => e.key === "Enter" && handleDone(e.currentTarget.value)} />
  );
}
