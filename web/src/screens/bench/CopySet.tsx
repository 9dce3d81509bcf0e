import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import type { TextureSet } from "../../api/client";
import { copyOf } from "../../api/sets";
import { Problem } from "../../parts/grades";
import { Hint } from "../../parts/Hint";

type CopySetProps = {
  set: TextureSet;
  project: string;
  title: string;
  says: string;
  /** Whether the set is just being changed: its copy would be of the state before. */
  isBusy: boolean;
};

/** The press that makes another set as this one is now; it stays here, and says where the other is. */
export function CopySet({ set, project, title, says, isBusy }: CopySetProps) {
  const queries = useQueryClient();
  const copy = useMutation({
    mutationFn: () => copyOf(set.id),
    onSettled: () => queries.invalidateQueries({ queryKey: ["sets", project] }),
  });
  const made = copy.data;
  return (
    <div className="flex flex-wrap items-center gap-2">
      <Hint says={says}>
        <button
          type="button"
          className="button"
          disabled={isBusy || copy.isPending}
          onClick={() => copy.mutate()}
        >
          {title}
        </button>
      </Hint>
      {made && (
        <span className="text-sm text-ink2" role="status">
          Kept as{" "}
          <Link className="underline" to={`/p/${project}/bench/${made.id}`}>
            {made.name}
          </Link>
        </span>
      )}
      <Problem error={copy.error} />
    </div>
  );
}
