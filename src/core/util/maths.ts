/**
 * Functions whose last bit is the same on every JavaScript engine. The language fixes only `+ - * /`, `sqrt`, `abs`
 * and `fround`; the built-in sine and its kin may differ between engines, so no simulated number goes through them.
 */

// pi/2 in three parts, each with trailing zeros, so that k * part is exact for |k| below 2^20 (Cody and Waite, 1980).
const HALF_PI_A = 1.5707963267341256
const HALF_PI_B = 6.077100506303966e-11
const HALF_PI_C = 2.0222662487959506e-21
const TWO_OVER_PI = 0.6366197723675814
/** Above this many radians the reduction would lose bits; angles are folded by whole turns first. */
const REDUCTION_LIMIT = 1e5

const TURN = 6.283185307179586

/**
 * Reads an angle (radians) from `data[at]` and writes its cos and sin to the two places behind it. Exact at zero; within
 * 1 ulp elsewhere. Numbers stay in the array: a double that crosses a call would be boxed.
 */
export function cosSin(data: Float64Array, at: number): void {
  let angle = data[at]
  if (angle > REDUCTION_LIMIT || angle < -REDUCTION_LIMIT) angle -= Math.round(angle / TURN) * TURN
  const quarter = Math.round(angle * TWO_OVER_PI)
  const x = angle - quarter * HALF_PI_A - quarter * HALF_PI_B - quarter * HALF_PI_C
  // Minimax polynomials on [-pi/4, pi/4], error below one unit in the last place (coefficients after the fdlibm kernels).
  const z = x * x
  const sine =
    0.00833333333332249 +
    z * (-0.0001984126982985795 + z * (2.7557313707070068e-6 + z * (-2.5050760253406863e-8 + z * 1.58969099521155e-10)))
  const s = x + x * z * (-0.16666666666666632 + z * sine)
  const cosine =
    z *
    (0.0416666666666666 +
      z *
        (-0.001388888888887411 +
          z *
            (2.480158728947673e-5 +
              z * (-2.7557314351390663e-7 + z * (2.087572321298175e-9 + z * -1.1359647557788195e-11)))))
  const half = 0.5 * z
  const high = 1 - half
  const c = high + (1 - high - half + z * cosine)
  switch (quarter & 3) {
    case 0:
      data[at + 1] = c
      data[at + 2] = s
      break
    case 1:
      data[at + 1] = -s
      data[at + 2] = c
      break
    case 2:
      data[at + 1] = -c
      data[at + 2] = -s
      break
    default:
      data[at + 1] = s
      data[at + 2] = -c
  }
}

const ATAN_HIGH = [0.4636476090008061, 0.7853981633974483, 0.982793723247329, 1.5707963267948966]
const ATAN_LOW = [2.2698777452961687e-17, 3.061616997868383e-17, 1.3903311031230998e-17, 6.123233995736766e-17]

/** Writes the arc tangent of a number in its place, by reduction to a small argument and a polynomial (coefficients after fdlibm). Within 1 ulp. */
function writeAtan(out: Float64Array): void {
  const value = out[0]
  let x = value < 0 ? -value : value
  let part = -1
  if (x >= 2.4375) {
    part = 3
    x = -1 / x
  } else if (x >= 1.1875) {
    part = 2
    x = (x - 1.5) / (1 + 1.5 * x)
  } else if (x >= 0.6875) {
    part = 1
    x = (x - 1) / (x + 1)
  } else if (x >= 0.4375) {
    part = 0
    x = (2 * x - 1) / (2 + x)
  }
  const z = x * x
  const w = z * z
  const odd =
    z *
    (0.3333333333333293 +
      w *
        (0.14285714272503466 +
          w *
            (0.09090887133436507 + w * (0.06661073137387531 + w * (0.049768779946159324 + w * 0.016285820115365782)))))
  const even =
    w *
    (-0.19999999999876483 +
      w * (-0.11111110405462356 + w * (-0.0769187620504483 + w * (-0.058335701337905735 + w * -0.036531572744216916))))
  const small = x * (odd + even)
  const result = part < 0 ? x - small : ATAN_HIGH[part] - (small - ATAN_LOW[part] - x)
  out[0] = value < 0 ? -result : result
}

/** The angle of (x, y), from -pi to pi; 0 for (0, 0). */
export function atan2(y: number, x: number): number {
  pair[0] = y
  pair[1] = x
  writeAtan2(pair)
  return pair[0]
}

const pair = new Float64Array(2)

/** Writes {@link atan2} of two numbers in the place of the first: for loops, where a double that a call takes or returns may be boxed. */
export function writeAtan2(out: Float64Array): void {
  const y = out[0]
  const x = out[1]
  if (x === 0) out[0] = y === 0 ? 0 : y > 0 ? TURN / 4 : -TURN / 4
  else {
    out[0] = y / x
    writeAtan(out)
    if (x < 0) out[0] += y >= 0 ? TURN / 2 : -TURN / 2
  }
}

/** e to the power of a number from 0 to 20, by its series on a small part of it, which is then squared. Within a few ulp. */
export function exp(value: number): number {
  const part = value / 64
  let term = 1
  let sum = 1
  for (let k = 1; k <= 12; k++) {
    term *= part / k
    sum += term
  }
  for (let k = 0; k < 6; k++) sum *= sum
  return sum
}
