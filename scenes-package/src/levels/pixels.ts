/** Pictures as grids of tiles: a pixel a tile. */
import { KeenError } from 'keen-sentry'

/** Pixels row by row from the top: red, green, blue and opacity of each, 0 to 255. The ImageData of a canvas is such a picture. */
export interface Pixels {
  /** Pixels in a row. */
  readonly width: number
  /** Rows. */
  readonly height: number
  /** Four numbers a pixel. */
  readonly data: ArrayLike<number>
}

/** Which sign of a tile a colour stands for: `{ '#5b6470': '#' }`. */
export type ColourKey = Readonly<Record<string, string>>

/** Opacity below which a pixel is empty. */
const CLEAR = 128
const EMPTY = '.'

/**
 * A picture as rows of signs, as `tiles({ rows })` takes them. What is transparent is empty. Cost: the pixels.
 * @param key colours as `#rrggbb` or `#rgb`, and the sign of each; `.` is empty
 * @throws KeenError `bad-level`, naming the pixel, for a colour that is not in the key
 */
export function rowsFromPixels({ width, height, data }: Pixels, key: ColourKey): string[] {
  if (data.length !== 4 * width * height) {
    const found = `${width} by ${height} pixels have ${4 * width * height} numbers, got ${data.length}`
    throw new KeenError('bad-level', found)
  }
  const signs = new Map(Object.entries(key).map(([colour, sign]) => [numberOf(colour), signOf(colour, sign)]))
  const rows: string[] = []
  for (let y = 0; y < height; y++) {
    let row = ''
    for (let x = 0; x < width; x++) {
      const at = 4 * (y * width + x)
      if (data[at + 3] < CLEAR) {
        row += EMPTY
        continue
      }
      const colour = (data[at] << 16) | (data[at + 1] << 8) | data[at + 2]
      const sign = signs.get(colour)
      if (sign === undefined) throw unknownColour(colour, x, y, [...signs.keys()])
      row += sign
    }
    rows.push(row)
  }
  return rows
}

/**
 * The bytes of a PNG as rows of signs.
 * @throws KeenError `bad-level` for what is no PNG, and as `rowsFromPixels`
 */
export async function rowsFromPng(bytes: Uint8Array, key: ColourKey): Promise<string[]> {
  const { PNG } = (await import('pngjs')).default
  let pixels: Pixels
  try {
    pixels = PNG.sync.read(bytes as Buffer)
  } catch (error) {
    throw new KeenError('bad-level', `that is no PNG: ${(error as Error).message}`)
  }
  return rowsFromPixels(pixels, key)
}

/** Rows of signs as the bytes of a PNG, a pixel a tile; `.` is transparent. Throws `bad-level` for a sign without a colour. */
export async function pngFromRows(rows: readonly string[], key: ColourKey): Promise<Uint8Array> {
  const { PNG } = (await import('pngjs')).default
  const colours = new Map(Object.entries(key).map(([colour, sign]) => [signOf(colour, sign), numberOf(colour)]))
  const picture = new PNG({ width: [...rows[0]].length, height: rows.length })
  rows.forEach((row, y) => {
    ;[...row].forEach((sign, x) => {
      if (sign === EMPTY) return
      const colour = colours.get(sign)
      if (colour === undefined) throw new KeenError('bad-level', `the key has no colour for ${JSON.stringify(sign)}`)
      picture.data.set([colour >> 16, (colour >> 8) & 255, colour & 255, 255], 4 * (y * picture.width + x))
    })
  })
  return PNG.sync.write(picture)
}

function numberOf(colour: string): number {
  const digits = /^#?([\da-f]{6}|[\da-f]{3})$/i.exec(colour)?.[1]
  if (digits === undefined) {
    throw new KeenError('bad-level', `a colour of the key is written #rrggbb, got ${JSON.stringify(colour)}`)
  }
  return Number.parseInt(digits.length === 6 ? digits : digits.replace(/./g, '$&$&'), 16)
}

function signOf(colour: string, sign: unknown): string {
  if (typeof sign === 'string' && [...sign].length === 1) return sign
  throw new KeenError('bad-level', `${colour} of the key stands for one character, got ${JSON.stringify(sign)}`)
}

const text = (colour: number): string => `#${colour.toString(16).padStart(6, '0')}`

function unknownColour(colour: number, x: number, y: number, known: readonly number[]): KeenError {
  const distance = (other: number): number =>
    [16, 8, 0].reduce((sum, shift) => sum + (((colour >> shift) & 255) - ((other >> shift) & 255)) ** 2, 0)
  const [nearest] = [...known].sort((a, b) => distance(a) - distance(b))
  const hint = nearest === undefined ? 'the key is empty' : `the nearest in the key is ${text(nearest)}`
  return new KeenError('bad-level', `pixel ${x}, ${y} is ${text(colour)}, which is not in the key; ${hint}`)
}
