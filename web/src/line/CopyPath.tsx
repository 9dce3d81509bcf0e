import { useMutation } from "@tanstack/react-query";
import { Problem } from "../parts/grades";
import { Hint } from "../parts/Hint";

type CopyPathProps = {
  path: string;
  /** What it leads to, for those who hear the button. */
  of: string;
  className?: string;
};

/** Puts the path of a folder on the clipboard, to be pasted where files are opened. */
export function CopyPath({ path, of, className = "cursor-pointer underline" }: CopyPathProps) {
  const copy = useMutation({ mutationFn: () => navigator.clipboard.writeText(path) });
  return (
    <>
      <Hint says={path}>
        <button
          type="button"
          aria-label={`Copy path of ${of}`}
          className={className}
          onClick={() => copy.mutate()}
        >
          {copy.isSuccess ? "Copied" : "Copy path"}
        </button>
      </Hint>
      <Problem error={copy.error} />
    </>
  );
}
