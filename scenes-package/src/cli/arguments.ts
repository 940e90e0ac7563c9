/** Numbers on the command line. */
import { InvalidArgumentError } from 'commander'

const MOST_TICKS = 10_000_000

/** A count of ticks from 1 on. */
export function tickCount(text: string): number {
  return wholeNumber(text, 1, MOST_TICKS)
}

/** The number of a tick; 0 is before the first. */
export function tickNumber(text: string): number {
  return wholeNumber(text, 0, MOST_TICKS)
}

/** Pixels of a picture's side. */
export function pixels(text: string): number {
  return wholeNumber(text, 64, 8192)
}

function wholeNumber(text: string, least: number, most: number): number {
  const value = Number(text)
  if (/^\d+$/.test(text) && value >= least && value <= most) return value
  throw new InvalidArgumentError(`Expected a whole number from ${least} to ${most}.`)
}

/** A finite number. */
export function number(text: string): number {
  const value = Number(text)
  if (text.trim() !== '' && Number.isFinite(value)) return value
  throw new InvalidArgumentError(`Expected a number, got '${text}'.`)
}

/** Numbers separated by commas: a point, or an angle of 2D. */
export function vectorOf(text: string): number[] {
  const parts = text.split(',').map((part) => number(part.trim()))
  if (parts.length <= 4) return parts
  throw new InvalidArgumentError('Expected two numbers in 2D, as 3,-1.5, or three in 3D, as 3,-1.5,2.')
}
