/**
 * What went wrong, without React: which failures are worth another try, and which mean that the
 * program was renewed.
 */

/** A refusal of the server, with the number that HTTP has for it. */
export class Refusal extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

/** No answer came: the server is not there. */
export class NoAnswer extends Error {
  constructor() {
    super("The server does not answer.");
  }
}

const TRIES = 2;

/** Whether the question was refused for what it asks; asking again changes nothing. */
export const isRefused = (error: unknown): boolean =>
  error instanceof Refusal && error.status >= 400 && error.status < 500;

/** Whether a question is asked again: never where it was refused. */
export const isWorthRetrying = (failures: number, error: unknown): boolean =>
  failures < TRIES && !isRefused(error);

const CHUNK = /dynamically imported module|module script failed|Importing a module/i;

/** Whether a part of the program is gone: it was renewed while this page was open. */
export const isChunkMissing = (error: unknown): boolean =>
  error instanceof Error && CHUNK.test(error.message);

/** What was thrown, as an error: code of other people may throw anything. */
export const errorOf = (thrown: unknown): Error =>
  thrown instanceof Error ? thrown : new Error(String(thrown));
