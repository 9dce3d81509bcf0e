import { ask } from "./ask";
import { Refusal } from "./failures";

/** Hand something over as a file of this name. */
export function handOver(blob: Blob, name: string) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}

type Asked = {
  /** What is asked for, where that is more than an address says. */
  body?: unknown;
  signal?: AbortSignal;
  /** Hears how much has come. */
  onBytes?: (bytes: number) => void;
};

/** Fetch a file and save it under the name that the server gives it; a refusal is thrown. */
export async function saveBlob(
  address: string,
  { body, signal, onBytes }: Asked = {},
): Promise<void> {
  const headers = { "content-type": "application/json" };
  const sent = body === undefined ? {} : { method: "POST", headers, body: JSON.stringify(body) };
  const response = await ask(address, { ...sent, signal });
  if (!response.ok) {
    const { detail } = await response.json().catch(() => ({}));
    throw new Refusal(detail ?? "The server gave no reason.", response.status);
  }
  const blob = onBytes ? await heardBlob(response, onBytes) : await response.blob();
  handOver(blob, nameIn(response.headers.get("content-disposition") ?? ""));
}

/** What an answer brings, told of as it comes. */
async function heardBlob(response: Response, onBytes: (bytes: number) => void): Promise<Blob> {
  let bytes = 0;
  const counting = new TransformStream<Uint8Array, Uint8Array>({
    transform(part, out) {
      bytes += part.length;
      onBytes(bytes);
      out.enqueue(part);
    },
  });
  return new Response(response.body?.pipeThrough(counting)).blob();
}

/** The file's name in an answer's header (RFC 5987). */
export const nameIn = (disposition: string): string =>
  decodeURIComponent(/filename\*=UTF-8''([^;]+)/.exec(disposition)?.[1] ?? "map");
