import { notNegative, onlyFields, size } from '../../core/util/checks.ts'
import { KeenError } from '../../core/util/errors.ts'
import { SIZE } from '../../core/util/limits.ts'
import { factsOf, onePiece } from './facts.ts'
import type { Box } from './shape.ts'

/**
 * A box about its origin, full sizes.
 * @param width metres along x, above 0
 * @param height metres along y, above 0
 * @param options `radius` rounds the corners, within the full size; at most half of the smaller side
 * @throws KeenError `bad-number`, `bad-shape`
 */
export function box(width: number, height: number, options: { radius?: number | undefined } = {}): Box {
  size(width, "'width' of a box")
  size(height, "'height' of a box")
  if (typeof options === 'number') {
    throw new KeenError(
      'bad-argument',
      'a box of 2D takes (width, height); three sizes belong to box() of keen-sentry/3d',
    )
  }
  onlyFields(options, ['radius'], 'the options of a box')
  const radius = notNegative(options.radius ?? 0, "'radius' of a box", SIZE)
  if (2 * radius > Math.min(width, height)) {
    throw new KeenError(
      'bad-shape',
      `'radius' of a box must be at most half of its smaller side, ${Math.min(width, height) / 2}, got ${radius}`,
    )
  }
  const x = width / 2 - radius
  const y = height / 2 - radius
  const block =
    x === 0 && y === 0
      ? [radius, 0, 0]
      : x === 0
        ? [radius, 0, -y, 0, y]
        : y === 0
          ? [radius, -x, 0, x, 0]
          : [radius, -x, -y, x, -y, x, y, -x, y]
  return Object.freeze({ kind: 'box', width, height, radius, ...factsOf(onePiece(...block)) })
}
