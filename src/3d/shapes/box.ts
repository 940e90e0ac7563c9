import { notNegative, onlyFields, size } from '../../core/util/checks.ts'
import { KeenError } from '../../core/util/errors.ts'
import { SIZE } from '../../core/util/limits.ts'
import { factsOf, Moments, onePiece, PI } from './facts.ts'
import { BOX } from './layout.ts'
import type { Box } from './shape.ts'

/**
 * A box about its origin, full sizes.
 * @param x metres along x, above 0; y and z alike
 * @param options `radius` rounds edges and corners, within the full size; at most half of the smallest side
 * @throws KeenError `bad-number`, `bad-shape`
 */
export function box(x: number, y: number, z: number, options: { radius?: number | undefined } = {}): Box {
  if (z === undefined) {
    throw new KeenError(
      'bad-argument',
      'a box of 3D takes three sizes (x, y, z); two belong to box() of keen-sentry/2d',
    )
  }
  size(x, "'x' of a box")
  size(y, "'y' of a box")
  size(z, "'z' of a box")
  onlyFields(options, ['radius'], 'the options of a box')
  const radius = notNegative(options.radius ?? 0, "'radius' of a box", SIZE)
  const least = Math.min(x, y, z)
  if (2 * radius > least) {
    throw new KeenError(
      'bad-shape',
      `'radius' of a box must be at most half of its smallest side, ${least / 2}, got ${radius}`,
    )
  }
  const half = [x / 2 - radius, y / 2 - radius, z / 2 - radius]
  const moments = new Moments()
  const { volume, second } = roundedMoments(half, radius)
  moments.add(volume, 0, 0, 0, [...second, 0, 0, 0])
  const block = [BOX, 0, 0, radius, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1, ...half]
  return Object.freeze({
    kind: 'box',
    size: Object.freeze({ x, y, z }),
    radius,
    ...factsOf(onePiece(block), moments, true),
  })
}

/**
 * Volume and second moments of a box of half sizes grown by a radius: the box, a slab on each face, a quarter of a
 * cylinder on each edge, an eighth of a ball on each corner.
 */
function roundedMoments(half: readonly number[], r: number): { volume: number; second: number[] } {
  let volume = 8 * half[0] * half[1] * half[2]
  const second = [0, 0, 0]
  for (let axis = 0; axis < 3; axis++) {
    const a = half[axis]
    const b = half[(axis + 1) % 3]
    const c = half[(axis + 2) % 3]
    volume += 8 * b * c * r + 2 * PI * r * r * a
    // Along `axis`: core and the four slabs beside it, the two slabs across it, edges along it, edges beside it, corners.
    const core = 8 * a * b * c + 8 * a * r * (b + c)
    const slabs = (8 * b * c * ((a + r) * (a + r) * (a + r) - a * a * a)) / 3
    const alongEdges = PI * r * r * 2 * a
    const quarter = (PI * r * r * a * a) / 4 + (2 * a * r * r * r) / 3 + (PI * r * r * r * r) / 16
    const corners = (4 / 3) * PI * r * r * r * a * a + PI * r * r * r * r * a + (4 * PI * r * r * r * r * r) / 15
    second[axis] = ((core + alongEdges) * a * a) / 3 + slabs + 8 * (b + c) * quarter + corners
  }
  return { volume: volume + (4 / 3) * PI * r * r * r, second }
}
