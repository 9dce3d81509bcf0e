import { Refusal } from "./failures";

/** Hand something over as a file of this name. */
export function handOver(blob: Blob, name: string) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}

/** Fetch a file and save it under the name that the server gives it; a refusal is thrown. */
export async function saveBlob(address: string): Promise<void> {
  const response = await fetch(address);
  if (!response.ok) {
    const { detail } = await response.json().catch(() => ({}));
    throw new Refusal(detail ?? "The server gave no reason.", response.status);
  }
  handOver(await response.blob(), nameIn(response.headers.get("content-disposition") ?? ""));
}

/** The file's name in an answer's header (RFC 5987). */
export const nameIn = (disposition: string): string =>
  decodeURIComponent(/filename\*=UTF-8''([^;]+)/.exec(disposition)?.[1] ?? "map");
