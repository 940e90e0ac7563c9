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

export const TURN = 6.283185307179586

// Minimax polynomials on [-pi/4, pi/4], error below one unit in the last place (coefficients after the fdlibm kernels).
function sinKernel(x: number): number {
  const z = x * x
  const tail =
    8.33333333332248946124e-3 +
    z * (-1.98412698298579493134e-4 + z * (2.75573137070700676789e-6 + z * (-2.50507602534068634195e-8 + z * 1.58969099521155010221e-10)))
  return x + x * z * (-1.66666666666666324348e-1 + z * tail)
}

function cosKernel(x: number): number {
  const z = x * x
  const tail =
    z *
    (4.16666666666666019037e-2 +
      z *
        (-1.38888888888741095749e-3 +
          z * (2.48015872894767294178e-5 + z * (-2.75573143513906633035e-7 + z * (2.08757232129817482790e-9 + z * -1.13596475577881948265e-11)))))
  const half = 0.5 * z
  const high = 1 - half
  return high + (1 - high - half + z * tail)
}

/** Writes cos and sin of `angle` (radians) to `out[at]`, `out[at + 1]`. Exact at zero; within 1 ulp elsewhere. */
export function cosSin(angle: number, out: Float64Array, at: number): void {
  if (angle > REDUCTION_LIMIT || angle < -REDUCTION_LIMIT) angle -= Math.round(angle / TURN) * TURN
  const quarter = Math.round(angle * TWO_OVER_PI)
  const x = angle - quarter * HALF_PI_A - quarter * HALF_PI_B - quarter * HALF_PI_C
  const s = sinKernel(x)
  const c = cosKernel(x)
  switch (quarter & 3) {
    case 0:
      out[at] = c
      out[at + 1] = s
      break
    case 1:
      out[at] = -s
      out[at + 1] = c
      break
    case 2:
      out[at] = -c
      out[at + 1] = -s
      break
    default:
      out[at] = s
      out[at + 1] = -c
  }
}
