import { useMutation } from "@tanstack/react-query";
import { Problem } from "../../parts/grades";
import { Hint } from "../../parts/Hint";

/** Puts the path of a folder on the clipboard, to be pasted where files are opened. */
export function CopyPath({ path, of }: { path: string; of: string }) {
  const copy = useMutation({ mutationFn: () => navigator.clipboard.writeText(path) });
  return (
    <>
      <Hint says={path}>
        <button
          type="button"
          aria-label={`Copy the path of ${of}`}
          className="cursor-pointer underline"
          onClick={() => copy.mutate()}
        >
          {copy.isSuccess ? "copied" : "copy path"}
        </button>
      </Hint>
      <Problem error={copy.error} />
    </>
  );
}
