/** How handles look in a console: one line each, instead of everything that hangs on them. */

/** Under this name Node's `console.log` finds how an object wants to be shown. */
export const INSPECT: unique symbol = Symbol.for('nodejs.util.inspect.custom')

/** A place as it is read: `(1.5, -2)`. Six digits are kept. */
export function showPlace(place: object): string {
  return `(${Object.values(place)
    .map((part: number) => Number(part.toPrecision(6)))
    .join(', ')})`
}
