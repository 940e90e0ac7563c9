/**
 * The contact solver: sequential impulses with warm starting (Catto, 2005) in small substeps (Macklin et al., 2019), each contact a
 * soft constraint that is then relaxed. Works on packed copies of what it needs: the bodies of this tick in rows, the contacts in
 * rows in the order of age, so that a pass runs straight through memory.
 */
import { POINT_GAP, POINT_WORDS, POINT_X, POINT_Y, TOTAL, WARM_FRICTION, WARM_NORMAL } from './contacts.ts'

/** Of a body: velocity x, y, spin; what it has moved by in this tick; inverse mass along x, y, of the turn; acceleration; damping. */
export const BODY = 14
const VX = 0
const VY = 1
const SPIN = 2
const DX = 3
const DY = 4
const TURN = 5
const IX = 6
const IY = 7
const IT = 8
const AX = 9
const AY = 10
const AT = 11
const SLOW = 12
const SLOW_SPIN = 13

/** Of a contact: normal, friction, restitution, surface speed, softness (rate, mass, impulse); then its points. */
const HEAD = 8
const RATE = 5
const MASS_PART = 6
const IMPULSE_PART = 7
/**
 * Of a point: its arms about the centres of A and B, across the normal (r x n) and across the tangent (r x t, which is less the
 * part of r along n); its gap as the tick begins; masses; impulses of the substep and of the tick, the greatest; the speed.
 */
const POINT = 15
const ARM_A = 0
const ARM_B = 1
const SIDE_A = 2
const SIDE_B = 3
const GAP_AT_START = 4
const NORMAL_MASS = 5
const TANGENT_MASS = 6
const NORMAL_IMPULSE = 7
const TANGENT_IMPULSE = 8
const NORMAL_TOTAL = 9
const TANGENT_TOTAL = 10
const MOST = 11
const SPEED = 12
/** How the second order of a turn moves the point along the normal: by the arm of its core, for a radius does not turn away. */
const BEND_A = 13
const BEND_B = 14
const ROW = HEAD + 2 * POINT

/** Substeps a tick. */
const SUBSTEPS = 5
/** Passes a substep that take back the speed by which overlaps were pushed apart. */
const RELAX = 2
/** Stiffness of contacts, as cycles a second, and how strongly they are damped. */
const CYCLES = 45
const DAMPING = 10
/** Lengths a second (times the unit) below which nothing bounces. */
export const BOUNCE = 0.5

export class Solver {
  /** Rows of bodies; row 0 is what cannot be moved. */
  bodies = new Float64Array(BODY * 64)
  bodyCount = 1
  /** 1 for rows that are in a contact. */
  touched = new Int32Array(64)
  /** Rows of A and B, the number of points, and the contact, of each row of contacts. */
  links = new Int32Array(4 * 64)
  rows = new Float64Array(ROW * 64)
  count = 0
  /** Seconds a tick and a substep: a double that crosses a call is boxed. */
  readonly time = new Float64Array(2)
  /** Lengths and radians a second that no row goes beyond. */
  readonly most = new Float64Array(2)
  /** Lengths a second at which overlaps are pushed apart at most. */
  push = 3
  /** Whether what was pushed apart keeps that speed. */
  burst = false
  private readonly unit: number

  constructor(unit: number) {
    this.unit = unit
    this.push = 3 * unit
  }

  clear(): void {
    this.bodyCount = 1
    this.count = 0
    this.touched[0] = 0
  }

  /** A new row, all zero. */
  addBody(): number {
    const row = this.bodyCount++
    if (BODY * this.bodyCount > this.bodies.length) {
      const wider = new Float64Array(2 * this.bodies.length)
      wider.set(this.bodies)
      this.bodies = wider
      const marks = new Int32Array(2 * this.touched.length)
      marks.set(this.touched)
      this.touched = marks
    }
    this.bodies.fill(0, BODY * row, BODY * row + BODY)
    this.touched[row] = 0
    return row
  }

  /**
   * Adds a contact between two rows.
   * @param normal, normalAt from A to B; @param points, pointsAt as `contacts.ts` keeps them
   * @param centres world centres of mass of A and B: x, y, x, y; then the radii of the two pieces
   * @param surface friction, restitution, surface speed of the pair
   */
  addContact(
    contact: number,
    a: number,
    b: number,
    count: number,
    normal: Float64Array,
    normalAt: number,
    points: Float64Array,
    pointsAt: number,
    centres: Float64Array,
    surface: Float64Array,
  ): void {
    const index = this.count++
    if (ROW * this.count > this.rows.length) {
      const wider = new Float64Array(2 * this.rows.length)
      wider.set(this.rows)
      this.rows = wider
      const links = new Int32Array(2 * this.links.length)
      links.set(this.links)
      this.links = links
    }
    const { rows, links, bodies } = this
    links[4 * index] = a
    links[4 * index + 1] = b
    links[4 * index + 2] = count
    links[4 * index + 3] = contact
    this.touched[a] = 1
    this.touched[b] = 1
    const at = ROW * index
    const nx = normal[normalAt]
    const ny = normal[normalAt + 1]
    rows[at] = nx
    rows[at + 1] = ny
    rows[at + 2] = surface[0]
    rows[at + 3] = surface[1]
    rows[at + 4] = surface[2]
    const p = BODY * a
    const q = BODY * b
    const iax = bodies[p + IX]
    const iay = bodies[p + IY]
    const iat = bodies[p + IT]
    const ibx = bodies[q + IX]
    const iby = bodies[q + IY]
    const ibt = bodies[q + IT]
    for (let k = 0; k < count; k++) {
      const from = pointsAt + POINT_WORDS * k
      const to = at + HEAD + POINT * k
      const x = points[from + POINT_X]
      const y = points[from + POINT_Y]
      const rax = x - centres[0]
      const ray = y - centres[1]
      const rbx = x - centres[2]
      const rby = y - centres[3]
      // The tangent is (ny, -nx).
      const ran = rax * ny - ray * nx
      const rbn = rbx * ny - rby * nx
      const rat = -rax * nx - ray * ny
      const rbt = -rbx * nx - rby * ny
      rows[to + ARM_A] = ran
      rows[to + ARM_B] = rbn
      rows[to + SIDE_A] = rat
      rows[to + SIDE_B] = rbt
      rows[to + BEND_A] = rat + centres[4]
      rows[to + BEND_B] = rbt - centres[5]
      rows[to + GAP_AT_START] = points[from + POINT_GAP]
      const normalMass = (iax + ibx) * nx * nx + (iay + iby) * ny * ny + iat * ran * ran + ibt * rbn * rbn
      const tangentMass = (iax + ibx) * ny * ny + (iay + iby) * nx * nx + iat * rat * rat + ibt * rbt * rbt
      rows[to + NORMAL_MASS] = normalMass > 0 ? 1 / normalMass : 0
      rows[to + TANGENT_MASS] = tangentMass > 0 ? 1 / tangentMass : 0
      rows[to + NORMAL_IMPULSE] = points[from + WARM_NORMAL]
      rows[to + TANGENT_IMPULSE] = points[from + WARM_FRICTION]
      rows[to + NORMAL_TOTAL] = 0
      rows[to + TANGENT_TOTAL] = 0
      rows[to + MOST] = 0
      const vx = bodies[q + VX] - bodies[q + SPIN] * rby - (bodies[p + VX] - bodies[p + SPIN] * ray)
      const vy = bodies[q + VY] + bodies[q + SPIN] * rbx - (bodies[p + VY] + bodies[p + SPIN] * rax)
      rows[to + SPEED] = vx * nx + vy * ny
    }
  }

  /** Moves all rows through a tick, whose seconds stand in {@link time}. */
  run(): void {
    const { time } = this
    time[1] = time[0] / SUBSTEPS
    this.soften()
    for (let step = 0; step < SUBSTEPS; step++) {
      this.accelerate()
      this.warm()
      this.pass(true)
      this.advance()
      for (let k = 0; k < RELAX && !this.burst; k++) this.pass(false)
      this.sum()
    }
    this.bounce()
    this.fly()
  }

  /** How soft each contact is: as a spring of so many cycles a second that a substep can follow; stiffer against the ground. */
  private soften(): void {
    const h = this.time[1]
    const { rows, links, count, bodies } = this
    const cycles = Math.min(CYCLES, 0.25 / h)
    for (let i = 0; i < count; i++) {
      const a = BODY * links[4 * i]
      const b = BODY * links[4 * i + 1]
      const ground = bodies[a + IX] + bodies[a + IY] === 0 || bodies[b + IX] + bodies[b + IY] === 0
      const omega = 6.283185307179586 * (ground ? 2 * cycles : cycles)
      const first = 2 * DAMPING + h * omega
      const second = h * omega * first
      const third = 1 / (1 + second)
      const at = ROW * i
      rows[at + RATE] = omega / first
      rows[at + MASS_PART] = second * third
      rows[at + IMPULSE_PART] = third
    }
  }

  private accelerate(): void {
    const h = this.time[1]
    const { bodies, bodyCount, touched } = this
    for (let row = 1; row < bodyCount; row++) {
      if (touched[row] === 0) continue
      const at = BODY * row
      const slow = 1 / (1 + h * bodies[at + SLOW])
      bodies[at + VX] = (bodies[at + VX] + h * bodies[at + AX]) * slow
      bodies[at + VY] = (bodies[at + VY] + h * bodies[at + AY]) * slow
      bodies[at + SPIN] = (bodies[at + SPIN] + h * bodies[at + AT]) / (1 + h * bodies[at + SLOW_SPIN])
      this.hold(at)
    }
  }

  /** Holds a row's speeds within their bounds. */
  private hold(at: number): void {
    const { bodies, most } = this
    const speed = most[0]
    const spin = most[1]
    if (bodies[at + VX] > speed) bodies[at + VX] = speed
    else if (bodies[at + VX] < -speed) bodies[at + VX] = -speed
    if (bodies[at + VY] > speed) bodies[at + VY] = speed
    else if (bodies[at + VY] < -speed) bodies[at + VY] = -speed
    if (bodies[at + SPIN] > spin) bodies[at + SPIN] = spin
    else if (bodies[at + SPIN] < -spin) bodies[at + SPIN] = -spin
  }

  private advance(): void {
    const h = this.time[1]
    const { bodies, bodyCount, touched } = this
    for (let row = 1; row < bodyCount; row++) {
      if (touched[row] === 0) continue
      const at = BODY * row
      this.hold(at)
      bodies[at + DX] += h * bodies[at + VX]
      bodies[at + DY] += h * bodies[at + VY]
      bodies[at + TURN] += h * bodies[at + SPIN]
    }
  }

  /** What touches nothing moves in closed form. */
  private fly(): void {
    const dt = this.time[0]
    const { bodies, bodyCount, touched } = this
    for (let row = 1; row < bodyCount; row++) {
      if (touched[row] !== 0) continue
      const at = BODY * row
      const slow = 1 / (1 + dt * bodies[at + SLOW])
      const slowSpin = 1 / (1 + dt * bodies[at + SLOW_SPIN])
      const vx = bodies[at + VX]
      const vy = bodies[at + VY]
      const spin = bodies[at + SPIN]
      bodies[at + VX] = (vx + dt * bodies[at + AX]) * slow
      bodies[at + VY] = (vy + dt * bodies[at + AY]) * slow
      bodies[at + SPIN] = (spin + dt * bodies[at + AT]) * slowSpin
      this.hold(at)
      // Without damping the mean of the two velocities is the exact way.
      bodies[at + DX] = ((vx + bodies[at + VX]) / 2) * dt
      bodies[at + DY] = ((vy + bodies[at + VY]) / 2) * dt
      bodies[at + TURN] = ((spin + bodies[at + SPIN]) / 2) * dt
    }
  }

  /** Begins a substep with the impulses of the last. */
  private warm(): void {
    const { rows, links, count, bodies } = this
    for (let i = 0; i < count; i++) {
      const a = BODY * links[4 * i]
      const b = BODY * links[4 * i + 1]
      const at = ROW * i
      const nx = rows[at]
      const ny = rows[at + 1]
      const end = at + HEAD + POINT * links[4 * i + 2]
      let vax = bodies[a + VX]
      let vay = bodies[a + VY]
      let va = bodies[a + SPIN]
      let vbx = bodies[b + VX]
      let vby = bodies[b + VY]
      let vb = bodies[b + SPIN]
      const iax = bodies[a + IX]
      const iay = bodies[a + IY]
      const iat = bodies[a + IT]
      const ibx = bodies[b + IX]
      const iby = bodies[b + IY]
      const ibt = bodies[b + IT]
      for (let p = at + HEAD; p < end; p += POINT) {
        const jn = rows[p + NORMAL_IMPULSE]
        const jt = rows[p + TANGENT_IMPULSE]
        const px = jn * nx + jt * ny
        const py = jn * ny - jt * nx
        vax -= px * iax
        vay -= py * iay
        va -= iat * (jn * rows[p + ARM_A] + jt * rows[p + SIDE_A])
        vbx += px * ibx
        vby += py * iby
        vb += ibt * (jn * rows[p + ARM_B] + jt * rows[p + SIDE_B])
      }
      bodies[a + VX] = vax
      bodies[a + VY] = vay
      bodies[a + SPIN] = va
      bodies[b + VX] = vbx
      bodies[b + VY] = vby
      bodies[b + SPIN] = vb
    }
  }

  /** One pass over all contacts, of each point friction, then the normal. With `soft`, overlaps are pushed apart. */
  private pass(soft: boolean): void {
    const { rows, links, count, bodies, push } = this
    const inverse = 1 / this.time[1]
    for (let i = 0; i < count; i++) {
      const a = BODY * links[4 * i]
      const b = BODY * links[4 * i + 1]
      const at = ROW * i
      const nx = rows[at]
      const ny = rows[at + 1]
      const friction = rows[at + 2]
      const surface = rows[at + 4]
      const end = at + HEAD + POINT * links[4 * i + 2]
      let vax = bodies[a + VX]
      let vay = bodies[a + VY]
      let va = bodies[a + SPIN]
      let vbx = bodies[b + VX]
      let vby = bodies[b + VY]
      let vb = bodies[b + SPIN]
      const iax = bodies[a + IX]
      const iay = bodies[a + IY]
      const iat = bodies[a + IT]
      const ibx = bodies[b + IX]
      const iby = bodies[b + IY]
      const ibt = bodies[b + IT]
      const turnA = bodies[a + TURN]
      const turnB = bodies[b + TURN]
      const bendA = 0.5 * turnA * turnA
      const bendB = 0.5 * turnB * turnB
      const nearer = (bodies[b + DX] - bodies[a + DX]) * nx + (bodies[b + DY] - bodies[a + DY]) * ny
      const rate = rows[at + RATE]
      const softMass = rows[at + MASS_PART]
      const softImpulse = rows[at + IMPULSE_PART]
      for (let p = at + HEAD; p < end; p += POINT) {
        const ran = rows[p + ARM_A]
        const rbn = rows[p + ARM_B]
        const rat = rows[p + SIDE_A]
        const rbt = rows[p + SIDE_B]
        const normalBefore = rows[p + NORMAL_IMPULSE]
        const tangentBefore = rows[p + TANGENT_IMPULSE]

        const vt = (vbx - vax) * ny - (vby - vay) * nx + vb * rbt - va * rat - surface
        const most = friction * normalBefore
        let tangent = tangentBefore - rows[p + TANGENT_MASS] * vt
        if (tangent > most) tangent = most
        else if (tangent < -most) tangent = -most
        rows[p + TANGENT_IMPULSE] = tangent
        const rub = tangent - tangentBefore
        vax -= rub * ny * iax
        vay += rub * nx * iay
        va -= iat * rat * rub
        vbx += rub * ny * ibx
        vby -= rub * nx * iby
        vb += ibt * rbt * rub

        // How the point's gap has changed, to the second order of the turns.
        const gap =
          rows[p + GAP_AT_START] +
          nearer +
          turnB * rbn -
          turnA * ran +
          bendB * rows[p + BEND_B] -
          bendA * rows[p + BEND_A]
        const vn = (vbx - vax) * nx + (vby - vay) * ny + vb * rbn - va * ran
        let bias = 0
        let massPart = 1
        let impulsePart = 0
        if (gap > 0) bias = gap * inverse
        else if (soft) {
          bias = rate * gap
          if (bias < -push) bias = -push
          massPart = softMass
          impulsePart = softImpulse
        }
        let normal = normalBefore - rows[p + NORMAL_MASS] * massPart * (vn + bias) - impulsePart * normalBefore
        if (normal < 0) normal = 0
        rows[p + NORMAL_IMPULSE] = normal
        if (normal > rows[p + MOST]) rows[p + MOST] = normal
        const press = normal - normalBefore
        vax -= press * nx * iax
        vay -= press * ny * iay
        va -= iat * ran * press
        vbx += press * nx * ibx
        vby += press * ny * iby
        vb += ibt * rbn * press
      }
      bodies[a + VX] = vax
      bodies[a + VY] = vay
      bodies[a + SPIN] = va
      bodies[b + VX] = vbx
      bodies[b + VY] = vby
      bodies[b + SPIN] = vb
    }
  }

  /** Adds the impulses of a substep to those of the tick. */
  private sum(): void {
    const { rows, links, count } = this
    for (let i = 0; i < count; i++) {
      const at = ROW * i + HEAD
      const end = at + POINT * links[4 * i + 2]
      for (let p = at; p < end; p += POINT) {
        rows[p + NORMAL_TOTAL] += rows[p + NORMAL_IMPULSE]
        rows[p + TANGENT_TOTAL] += rows[p + TANGENT_IMPULSE]
      }
    }
  }

  /**
   * What came fast enough, and was stopped, leaves at its restitution: by the speed that it has at the surface, which is that at
   * the start of the tick and what its acceleration adds over the gap.
   */
  private bounce(): void {
    const { rows, links, count, bodies } = this
    const least = BOUNCE * this.unit
    for (let i = 0; i < count; i++) {
      const at = ROW * i
      const restitution = rows[at + 3]
      if (restitution === 0) continue
      const a = BODY * links[4 * i]
      const b = BODY * links[4 * i + 1]
      const nx = rows[at]
      const ny = rows[at + 1]
      const end = at + HEAD + POINT * links[4 * i + 2]
      for (let p = at + HEAD; p < end; p += POINT) {
        const speed = rows[p + SPEED]
        if (speed > -least || rows[p + MOST] === 0) continue
        const pull = (bodies[a + AX] - bodies[b + AX]) * nx + (bodies[a + AY] - bodies[b + AY]) * ny
        const gap = rows[p + GAP_AT_START]
        const square = speed * speed + 2 * pull * (gap > 0 ? gap : 0)
        const ran = rows[p + ARM_A]
        const rbn = rows[p + ARM_B]
        const vx = bodies[b + VX] - bodies[a + VX]
        const vy = bodies[b + VY] - bodies[a + VY]
        const vn = vx * nx + vy * ny + bodies[b + SPIN] * rbn - bodies[a + SPIN] * ran
        const wanted = square > 0 ? restitution * Math.sqrt(square) : 0
        const before = rows[p + NORMAL_IMPULSE]
        let after = before - rows[p + NORMAL_MASS] * (vn - wanted)
        if (after < 0) after = 0
        rows[p + NORMAL_IMPULSE] = after
        const change = after - before
        rows[p + NORMAL_TOTAL] += change
        const px = change * nx
        const py = change * ny
        bodies[a + VX] -= px * bodies[a + IX]
        bodies[a + VY] -= py * bodies[a + IY]
        bodies[a + SPIN] -= bodies[a + IT] * ran * change
        bodies[b + VX] += px * bodies[b + IX]
        bodies[b + VY] += py * bodies[b + IY]
        bodies[b + SPIN] += bodies[b + IT] * rbn * change
      }
    }
  }

  /**
   * Writes the impulses of a row back to its contact's points, and adds to `out`: the sum along the normal, that across it, and
   * the greatest speed of coming together of what was pressed.
   */
  readImpulses(index: number, points: Float64Array, pointsAt: number, out: Float64Array): void {
    const { rows, links } = this
    const at = ROW * index + HEAD
    for (let k = 0; k < links[4 * index + 2]; k++) {
      const p = at + POINT * k
      const to = pointsAt + POINT_WORDS * k
      points[to + WARM_NORMAL] = rows[p + NORMAL_IMPULSE]
      points[to + WARM_FRICTION] = rows[p + TANGENT_IMPULSE]
      const total = rows[p + NORMAL_TOTAL]
      points[to + TOTAL] = total
      out[0] += total
      out[1] += Math.abs(rows[p + TANGENT_TOTAL])
      if (total > 0 && -rows[p + SPEED] > out[2]) out[2] = -rows[p + SPEED]
    }
  }
}
