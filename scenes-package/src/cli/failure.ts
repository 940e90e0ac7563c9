/** How a command ends when it cannot do its work: one clear sentence, an exit code, no stack. */

/** The arguments are wrong. */
export const USAGE = 2
/** The arguments are right and the work failed: a scene with errors, a file that cannot be written. */
export const FAILED = 1

/** A fault of the command itself. */
export const BROKEN = 3

export class Failure extends Error {
  readonly exitCode: number
  /** A word for programs: the code of what was thrown, where something was. */
  readonly code: string

  constructor(message: string, exitCode: number = FAILED, code = exitCode === USAGE ? 'usage' : 'failed') {
    super(message)
    this.exitCode = exitCode
    this.code = code
  }
}

/** What exit codes mean, for the help. */
export const EXIT_CODES = `
Exit codes:
  ${0}  done
  ${FAILED}  the scene has errors, or a file cannot be read or written
  ${USAGE}  the arguments are wrong
  ${BROKEN}  a fault of keen-sentry itself`

/** The reason of a file system error in words. */
export function reasonOf(error: unknown): string {
  const code = (error as { code?: string }).code
  switch (code) {
    case 'ENOENT':
      return 'there is no such file or folder'
    case 'EACCES':
    case 'EPERM':
      return 'permission denied'
    case 'EISDIR':
      return 'it is a folder'
    case 'ENOTDIR':
      return 'a part of the path is not a folder'
    case 'ENOSPC':
      return 'no space left'
    default:
      return error instanceof Error ? error.message : String(error)
  }
}
