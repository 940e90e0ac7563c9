/**
 * The walk of a ray through a tree whose nodes hold four boxes side by side, for WebAssembly with SIMD: `npm run kernel` compiles it and
 * puts its bytes into src/3d/simd/bytes.ts. It finds leaves that a ray may meet, in 32-bit floats and rather too many: whoever asks tests
 * them exactly.
 *
 * Memory: a ray's stack of links and where they are entered, and from NODES on the nodes of 128 bytes: of four boxes the least x, y
 * and z, the greatest x, y and z, the links (below 0 of a leaf) and the layer bits below.
 */

const STACK: usize = 1024
const ENTERS: usize = 512
const NODES: usize = 65536

let height: i32 = 0
let inX: v128 = f32x4.splat(0)
let inY: v128 = f32x4.splat(0)
let inZ: v128 = f32x4.splat(0)
let outX: v128 = f32x4.splat(0)
let outY: v128 = f32x4.splat(0)
let outZ: v128 = f32x4.splat(0)
let perX: v128 = f32x4.splat(0)
let perY: v128 = f32x4.splat(0)
let perZ: v128 = f32x4.splat(0)
let bits: v128 = i32x4.splat(0)
let nearX: usize = 0
let nearY: usize = 0
let nearZ: usize = 0

/**
 * @param x y z where the ray starts
 * @param px py pz one over its motion
 * @param slack by how much boxes are taken as wider
 * @param mask layers of which one must be below
 */
export function begin(x: f64, y: f64, z: f64, px: f64, py: f64, pz: f64, slack: f64, mask: i32): void {
  inX = f32x4.splat(<f32>(px < 0 ? x - slack : x + slack))
  outX = f32x4.splat(<f32>(px < 0 ? x + slack : x - slack))
  inY = f32x4.splat(<f32>(py < 0 ? y - slack : y + slack))
  outY = f32x4.splat(<f32>(py < 0 ? y + slack : y - slack))
  inZ = f32x4.splat(<f32>(pz < 0 ? z - slack : z + slack))
  outZ = f32x4.splat(<f32>(pz < 0 ? z + slack : z - slack))
  perX = f32x4.splat(<f32>px)
  perY = f32x4.splat(<f32>py)
  perZ = f32x4.splat(<f32>pz)
  nearX = px < 0 ? 48 : 0
  nearY = py < 0 ? 64 : 16
  nearZ = pz < 0 ? 80 : 32
  bits = i32x4.splat(mask)
  store<i32>(STACK, 0)
  store<f32>(STACK + 4, 0)
  height = 1
}

/** The link of the next leaf, nearer ones earlier, or 0. @param limit the part of the motion beyond which nothing counts */
export function next(limit: f32): i32 {
  const zero = f32x4.splat(0)
  const most = f32x4.splat(limit)
  let top = height
  while (top > 0) {
    top--
    const at = STACK + ((<usize>top) << 3)
    if (load<f32>(at + 4) > limit) continue
    let link = load<i32>(at)
    // Down to the nearest leaf below; the others wait.
    for (;;) {
      if (link < 0) {
        height = top
        return link
      }
      const node = NODES + ((<usize>link) << 7)
      const x0 = f32x4.mul(f32x4.sub(v128.load(node + nearX), inX), perX)
      const y0 = f32x4.mul(f32x4.sub(v128.load(node + nearY), inY), perY)
      const z0 = f32x4.mul(f32x4.sub(v128.load(node + nearZ), inZ), perZ)
      const x1 = f32x4.mul(f32x4.sub(v128.load(node + 48 - nearX), outX), perX)
      const y1 = f32x4.mul(f32x4.sub(v128.load(node + 80 - nearY), outY), perY)
      const z1 = f32x4.mul(f32x4.sub(v128.load(node + 112 - nearZ), outZ), perZ)
      const enter = f32x4.pmax(f32x4.pmax(x0, y0), f32x4.pmax(z0, zero))
      // A little later, by the rounding of both.
      const leave = f32x4.mul(f32x4.pmin(f32x4.pmin(x1, y1), z1), f32x4.splat(1.000001))
      const below = i32x4.ne(v128.and(v128.load(node + 112), bits), i32x4.splat(0))
      const met = v128.and(v128.and(f32x4.le(enter, leave), f32x4.le(enter, most)), below)
      let left = i32x4.bitmask(met)
      if (left === 0) break
      let child = <usize>ctz(left)
      left &= left - 1
      link = load<i32>(node + 96 + (child << 2))
      if (left === 0) continue
      v128.store(ENTERS, enter)
      let nearest = load<f32>(ENTERS + (child << 2))
      // The farther ones wait, the farthest at the bottom.
      const bottom = top
      do {
        child = <usize>ctz(left)
        left &= left - 1
        let waits = load<i32>(node + 96 + (child << 2))
        let entered = load<f32>(ENTERS + (child << 2))
        if (entered < nearest) {
          const other = link
          link = waits
          waits = other
          const before = nearest
          nearest = entered
          entered = before
        }
        let to = top
        while (to > bottom && load<f32>(STACK + ((<usize>(to - 1)) << 3) + 4) < entered) {
          store<i64>(STACK + ((<usize>to) << 3), load<i64>(STACK + ((<usize>(to - 1)) << 3)))
          to--
        }
        store<i32>(STACK + ((<usize>to) << 3), waits)
        store<f32>(STACK + ((<usize>to) << 3) + 4, entered)
        top++
      } while (left !== 0)
    }
  }
  height = 0
  return 0
}
