// Every error that a user can be shown: code, HTTP status, and what to do. Messages name the thing and are written
// where the fault is found.
export const ERRORS = {
  NOT_FOUND: { status: 404, remedy: 'It may have been deleted. Go back and choose another.' },
  INVALID: { status: 400, remedy: 'Correct the value and try again.' },
  NAME_TAKEN: { status: 409, remedy: 'Choose another name.' },
  IN_USE: { status: 409, remedy: 'Remove it from what uses it first.' },
  NO_SCENE: { status: 409, remedy: 'Import a scene first.' },
  IMPORT_FAILED: { status: 422, remedy: 'Mend the file as said and import it again.' },
  IMPORT_BUSY: { status: 409, remedy: 'Wait until the running import has ended.' },
  TOO_LARGE: { status: 413, remedy: 'Split the file or leave parts out.' },
  PLAN_HAS_ERRORS: { status: 409, remedy: 'Resolve what the plan names, then render again.' },
  WRONG_STATE: { status: 409, remedy: 'Look at its present state; it has changed meanwhile.' },
  CONFLICT: { status: 409, remedy: 'What it became is shown now. Make your change again if it is still wanted.' },
  NOT_STORED: {
    status: 507,
    remedy: 'Make room or give the right to write there, then deliver again: nothing is traced again.',
  },
  STALE_ATTEMPT: { status: 409, remedy: 'Nothing to do: another attempt has taken over.' },
  FILE_CHANGED: { status: 409, remedy: 'Put the file back as it was, or render the cell again.' },
  DAMAGED: {
    status: 409,
    remedy: 'Import what it came from again, or restore the data folder from a copy.',
  },
  NO_SPACE: { status: 507, remedy: 'Make room on the disk, then try again: nothing was changed.' },
  NOT_WRITABLE: { status: 507, remedy: 'Give Variscen the right to write there, then try again.' },
  TASK_ENDED: { status: 503, remedy: 'Try again. If it ends again, the machine has too little memory for it.' },
  BUSY: { status: 503, remedy: 'Try again in a moment. What you did is not lost where the page still shows it.' },
  PLAN_CHANGED: { status: 409, remedy: 'The plan is shown as it is now. Look at it, then render again.' },
  OTHER_BUILD: {
    status: 409,
    remedy: 'Bring both checkouts to the same version, then start the node again.',
  },
  NO_TOKEN: { status: 401, remedy: 'Open the address with the token that ./start printed.' },
  FORBIDDEN: { status: 403, remedy: 'Open Variscen at the address that it printed.' },
  INTERNAL: { status: 500, remedy: 'Try again. If it comes back, the log in the data folder says more.' },
} as const satisfies Record<string, { status: number; remedy: string }>;
export type ErrorCode = keyof typeof ERRORS;

export class AppError extends Error {
  constructor(
    readonly code: ErrorCode,
    message: string,
    readonly remedy: string = ERRORS[code].remedy,
  ) {
    super(message);
    this.name = 'AppError';
  }
  get status(): number {
    return ERRORS[this.code].status;
  }
}
