/** How a draw list looks on a dark and on a light ground: its colours are made for the dark one, and turned for the other. */
import { GRID, GROUND, shaded } from './palette.ts'

/** A name of a ground. */
export type ThemeName = 'dark' | 'light'

/** The colours of a ground, and how those of a list lie on it. */
export interface Theme {
  readonly ground: string
  readonly grid: string
  /** Text within a solid. */
  readonly inside: string
  /** A colour of a list, for lines and text. */
  ink(colour: string): string
  /** The filling within an outline of a colour of a list. */
  shade(colour: string): string
}

const LIGHT_GROUND = '#f6f9fc'
/** How much of an ink is in the filling within it. */
const FILLING = 0.3

/** Keeps what a function of a colour gave: a list has few colours, and many items of each. */
function kept(make: (colour: string) => string): (colour: string) => string {
  const known = new Map<string, string>()
  return (colour) => {
    let made = known.get(colour)
    if (made === undefined) known.set(colour, (made = make(colour)))
    return made
  }
}

/** A colour in which bright becomes dark, its hue kept. */
function darkened(colour: string): string {
  const [r, g, b] = parts(colour)
  const most = Math.max(r, g, b)
  const least = Math.min(r, g, b)
  const light = (most + least) / 510
  // What is nearly white is text, and becomes nearly black; the others lose a third.
  const wanted = light > 0.7 ? 0.95 - 0.74 * light : 0.6 * light
  const middle = (most + least) / 2
  const spread = light === 0 || light === 1 ? 0 : Math.min(1, wanted / (light > 0.5 ? 1 - light + 1e-9 : light))
  return text([r, g, b].map((part) => 255 * wanted + (part - middle) * spread))
}

function parts(colour: string): number[] {
  return [1, 3, 5].map((at) => Number.parseInt(colour.slice(at, at + 2), 16))
}

function text(values: readonly number[]): string {
  const hex = (value: number): string =>
    Math.round(Math.min(255, Math.max(0, value)))
      .toString(16)
      .padStart(2, '0')
  return `#${values.map(hex).join('')}`
}

const light = kept(darkened)
const ground = parts(LIGHT_GROUND)

export const THEMES: Readonly<Record<ThemeName, Theme>> = {
  dark: { ground: GROUND, grid: GRID, inside: GROUND, ink: (colour) => colour, shade: kept(shaded) },
  light: {
    ground: LIGHT_GROUND,
    grid: '#e0e8ef',
    inside: '#12212e',
    ink: light,
    shade: kept((colour) => text(parts(light(colour)).map((part, i) => FILLING * part + (1 - FILLING) * ground[i]))),
  },
}
