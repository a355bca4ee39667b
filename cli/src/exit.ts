// How a command ends.
export const EXIT = {
  DONE: 0,
  /** The server refused it, or something of what was rendered failed. */
  FAILED: 1,
  /** What was typed cannot be meant. */
  USAGE: 2,
  UNREACHABLE: 3,
  /** The plan has errors: nothing was queued. */
  PLAN: 4,
} as const;
export type ExitCode = (typeof EXIT)[keyof typeof EXIT];

export class CommandError extends Error {
  constructor(
    readonly exit: ExitCode,
    message: string,
    /** Of the server's catalogue of errors. */
    readonly code: string = 'USAGE',
  ) {
    super(message);
    this.name = 'CommandError';
  }
}
