/** Where the files lie that a file names: beside it, or in folders within its own. */

/** A place told from a folder that does not leave it: no way up, no root, no drive, no scheme, `/` between folders. */
export const BELOW = /^(?!\/)(?![A-Za-z][A-Za-z0-9+.-]*:)(?!(.*\/)?\.\.(\/|$))[^\\]+$/

/** Whether a URI names a file in a folder or in one within it. */
export function isBeside(uri: string): boolean {
  try {
    return BELOW.test(decodeURIComponent(uri))
  } catch {
    return false
  }
}
