import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, settled, type Target } from "../../api/client";
import { useQuantities } from "../../api/tables";
import { Choice } from "../../parts/Choice";
import { Menu } from "../../parts/Menu";
import { withNewFile } from "./edit";

const DOCUMENT_TITLES: Record<string, string> = {
  gltf: "glTF, .gltf",
  glb: "glTF in one file, .glb",
  materialx: "MaterialX, .mtlx",
  usd: "USD, .usda",
  obj: "OBJ, .obj, beside its MTL",
  mtl: "MTL, .mtl, for the OBJ",
};

const UP = [
  ["y", "Object space: y up"],
  ["z", "Object space: z up"],
] as const;
const GREEN = [
  ["up", "Normals Y+"],
  ["down", "Normals Y−"],
] as const;

type AdditionsProps = { target: Target; onChange: (change: (now: Target) => Target) => void };

/**
 * What the table as a whole can be given: files, documents, and which way green points.
 */
export function Additions({ target, onChange }: AdditionsProps) {
  const quantities = useQuantities();
  const { data: offered = [] } = useQuery({
    queryKey: ["documents", target.key, target.version],
    queryFn: () =>
      settled(api.GET("/api/targets/{key}/documents", { params: { path: { key: target.key } } })),
    placeholderData: keepPreviousData,
  });
  const handleFile = (key: string) => {
    const quantity = quantities.find((q) => q.key === key);
    if (quantity) onChange((now) => withNewFile(now, quantity));
  };
  const handleDocument = (kind: string) => {
    const document = offered.find((d) => d.kind === kind);
    if (document) onChange((now) => ({ ...now, documents: [...now.documents, document] }));
  };
  return (
    <>
      <div className="mt-3 flex items-center gap-2">
        <Menu
          label="Add a file"
          options={quantities.map((q) => [q.key, q.title] as const)}
          onPick={handleFile}
        />
        <Menu
          label="Add a document"
          options={offered.map((d) => [d.kind, DOCUMENT_TITLES[d.kind]] as const)}
          onPick={handleDocument}
        />
        <Choice
          label="Where green points"
          options={GREEN}
          value={target.green}
          onChange={(green) => onChange((now) => ({ ...now, green }))}
        />
        {target.files.some((file) =>
          Object.values(file.channels).some((channel) => channel?.quantity === "object_normal"),
        ) && (
          <Choice
            label="Which axis of objects points up"
            options={UP}
            value={target.object_up}
            onChange={(object_up) => onChange((now) => ({ ...now, object_up }))}
          />
        )}
      </div>
      {target.documents.length > 0 && (
        <ul aria-label="Documents" className="mt-2 flex flex-wrap items-center gap-2 text-sm">
          {target.documents.map((d) => (
            <li
              key={d.role}
              className="flex items-center gap-1 rounded-full border border-hair pl-2"
            >
              {DOCUMENT_TITLES[d.kind]}, {Object.keys(d.inputs).length} inputs wired
              <button
                type="button"
                className="cursor-pointer px-1.5 text-ink2"
                aria-label={`Leave out ${DOCUMENT_TITLES[d.kind]}`}
                onClick={() =>
                  onChange((now) => ({
                    ...now,
                    documents: now.documents.filter((one) => one.role !== d.role),
                  }))
                }
              >
                ×
              </button>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
