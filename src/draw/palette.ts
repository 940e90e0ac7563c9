/**
 * Colours for a dark water ground. The layer colours differ in lightness as well as in hue, so that they can be told
 * apart without full colour vision.
 */

export const GROUND = '#0b1724'
export const GRID = '#16283a'
export const TEXT = '#dfe9f2'
export const FAINT_TEXT = '#8ea3b8'
export const RAY = '#f7f1c8'
export const HIT = '#ffffff'
export const TOUCH = '#ff8f70'
export const WAY = '#9fe8c4'
export const JOINT = '#d6c8ff'
export const BROKEN = '#ff5c5c'

const LAYER_COLOURS = [
  '#8796a9',
  '#ffb545',
  '#4fb3e8',
  '#f491bd',
  '#2fb68a',
  '#ece27a',
  '#a488f2',
  '#e5673a',
  '#b8d8e8',
  '#8a6f4d',
] as const

/** The colour of a layer by its place in the definition. */
export function layerColour(index: number): string {
  return LAYER_COLOURS[index % LAYER_COLOURS.length]
}

/** A colour nearer to the ground: the filling inside an outline of that colour. */
export function shaded(colour: string): string {
  return mixed(colour, 0.78)
}

/** A colour for what is hidden. */
export function dimmed(colour: string): string {
  return mixed(colour, 0.45)
}

/** So much of a colour over the ground; more than 1 goes beyond it, towards white. */
export function mixed(colour: string, part: number): string {
  const mix = (at: number): string => {
    const own = Number.parseInt(colour.slice(at, at + 2), 16)
    const ground = Number.parseInt(GROUND.slice(at, at + 2), 16)
    const value = part <= 1 ? part * own + (1 - part) * ground : own + (part - 1) * (255 - own)
    return Math.round(value).toString(16).padStart(2, '0')
  }
  return `#${mix(1)}${mix(3)}${mix(5)}`
}
