/**
 * Contacts of 3D as a kind of constraint: a soft row for every point along the normal, and for the whole contact one of friction across it, bounded
 * as a vector by what presses, and one that resists twisting about it. Then relaxed; restitution once a tick.
 */
import {
  CLOSING,
  ContactKind,
  type ContactKindSetup,
  LINKS,
  POINTS,
  ROW_A,
  ROW_B,
  type RowForm,
  SUM_FRICTION,
  SUM_NORMAL,
} from '../../core/solve/contactKind.ts'
import { CHANGE, SUBSTEP } from '../../core/solve/substeps.ts'
import { PAIR_FRICTION, PAIR_RESTITUTION, PAIR_SPEED, PAIR_SURFACE } from '../../core/solve/surfaces.ts'
import type * as places from '../../core/util/places.ts'
import type * as body from './bodyRows.ts'
import type { BodyRows3 } from './bodyRows.ts'
import {
  CONTACT_FORM,
  CONTACT_WORDS,
  type Contacts3,
  FRICTION as FRICTION_WORDS,
  POINT_GAP,
  POINT_WORDS,
  POINT_X,
  TOTAL,
  WARM_NORMAL,
} from './contacts.ts'

const BODY: typeof body.BODY = 58
const VX: typeof body.VX = 0
const WX: typeof body.WX = 3
const IX: typeof body.IX = 6
const SX: typeof body.SX = 9
const DX: typeof body.DX = 15
const RX: typeof body.RX = 18
const AX: typeof body.AX = 33

const PLACE: typeof places.PLACE = 0x3fffffff

/**
 * What happens at a contact is worked out in a frame of its own: the normal, two tangents, and the middle of what presses. Six numbers say
 * how its two bodies move there, B as seen from A: how fast along the normal and the tangents, how fast they turn about these; and six say
 * what it gives them: impulses along the three, and about them.
 */
const ALONG = 0
const ALONG_FIRST = 1
const ALONG_SECOND = 2
const ABOUT = 3
const ABOUT_FIRST = 4
const ABOUT_SECOND = 5
const WAYS = 6
/**
 * Of a contact: normal, two tangents; from the centres of A and B to the middle; friction, softness (rate, mass, impulse); the mass of
 * friction as an inverse matrix, its wanted speed along the tangents, the mass of a twist, the radius at which it twists; what an impulse
 * along either tangent changes of the motion along the normal and about all three, what a twist changes of that; impulses of the substep.
 */
const NORMAL = 0
const FIRST = 3
const SECOND = 6
const LEVER_A = 9
const LEVER_B = 12
const FRICTION = 15
const RATE = 16
const MASS_PART = 17
const IMPULSE_PART = 18
const FRICTION_MASS = 19
const WANTED = 22
const TWIST_MASS = 24
const TWIST_RADIUS = 25
const BY_FIRST = 26
const BY_SECOND = 30
const BY_TWIST = 34
const FRICTION_IMPULSE = 37
const TWIST_IMPULSE = 39
const HEAD = 40
/**
 * Of its points, four numbers of each kind one behind the other: by how much the speed along the normal grows with the turn about either
 * tangent, which is where the point lies across the other; what an impulse there changes of the motion along the normal and about the
 * tangents; its gap now; its mass; impulse of the substep, and the greatest. Then what no pass reads: how high it lies over the middle, its
 * gap as the tick begins, the impulse of the tick, the speed as that begins.
 */
const BY_TURN_FIRST = 0
const BY_TURN_SECOND = 4
const CHANGE_ALONG = 8
const CHANGE_FIRST = 12
const CHANGE_SECOND = 16
const GAP = 20
const NORMAL_MASS = 24
const NORMAL_IMPULSE = 28
const MOST = 32
const HEIGHT = 36
const GAP_AT_START = 40
const NORMAL_TOTAL = 44
const SPEED = 48
/** From a point to the next. */
const POINT = 1
/** What no pass reads of a contact: sums of the tick, restitution, the radii of the two pieces. */
const FRICTION_TOTAL = 92
const RESTITUTION = 94
const RADIUS_A = 95
const RADIUS_B = 96
const ROW = 97

/**
 * Of what the bodies of a contact give way by: what impulses along either tangent and a twist change, as in the row from BY_FIRST on; then
 * the motion along the normal, and about the tangents, by impulses along and about these; that along the tangents; the spin by a twist.
 */
const OF_FIRST = 0
const OF_SECOND = 4
const OF_TWIST = 8
const NORMAL_NORMAL = 11
const NORMAL_FIRST = 12
const NORMAL_SECOND = 13
const FIRST_FIRST = 14
const FIRST_SECOND = 15
const SECOND_SECOND = 16
const SLIP = 17
const SPIN = 20
const YIELDS = 21

/** Part of the mean radius of a contact at which friction resists a twist: that of an evenly pressed disc. */
const TWIST_PART = 2 / 3
/** What is round touches at a spot that is not quite a point: of this part of its radius. So a ball does not spin on for ever. */
const PATCH = 0.03
/** What gives way by less than this part of what it is summed up from does not give way: what is left there is rounding. */
const RIGID = 1e-14
/** Part of the product of the two by which friction must give way in either of two directions to be solved in both. */
const SOLVABLE = 1e-12
/** Places in the scratch: world centres of mass of the two bodies. */
const CENTRE_A = 0
const CENTRE_B = 3

const ROW_FORM: RowForm = {
  width: ROW,
  head: HEAD,
  point: POINT,
  restitution: RESTITUTION,
  gap: GAP_AT_START,
  speed: SPEED,
  mass: NORMAL_MASS,
  impulse: NORMAL_IMPULSE,
  most: MOST,
  total: NORMAL_TOTAL,
}

export class ContactRows3 extends ContactKind<Contacts3, BodyRows3> {
  private readonly centres = new Float64Array(6)
  private readonly radii = new Float64Array(2)
  private readonly surface = new Float64Array(PAIR_SURFACE)
  private readonly middle = new Float64Array(3)
  /** How the bodies of a row come apart along the normal, and turn about the tangents. */
  private readonly motion = new Float64Array(3)
  /** What they are given, in the frame. */
  private readonly given = new Float64Array(WAYS)
  /** How far they give way. */
  private readonly yields = new Float64Array(YIELDS)
  /** Whether the gaps are those of where the bodies are now. */
  private measured = false
  /** Whether the impulses of the last substep are still to be added to those of the tick. */
  private owes = false
  /** Passes of this tick that were not soft. */
  private relaxed = 0

  constructor(setup: ContactKindSetup<Contacts3, BodyRows3>) {
    super(setup, CONTACT_FORM, ROW_FORM)
  }

  override begin(): void {
    super.begin()
    this.measured = true
    this.owes = false
    this.relaxed = 0
  }

  protected override fill(row: number, contact: number, pair: number, bodyA: number, bodyB: number): void {
    const { rows, links, contacts, bodyRows, centres, surface, source, middle, yields, radii } = this
    source.centreOf(bodyA, centres, CENTRE_A)
    source.centreOf(bodyB, centres, CENTRE_B)
    this.surfaces.read(pair, surface)
    const points = contacts.points.data
    const rowA = links[LINKS * row + ROW_A]
    const rowB = links[LINKS * row + ROW_B]
    bodyRows.held[rowA] = 1
    bodyRows.held[rowB] = 1
    const a = BODY * rowA
    const b = BODY * rowB
    const at = (ROW * row) & PLACE
    for (let k = 0; k < 3; k++) rows[at + NORMAL + k] = contacts.normal.data[3 * contact + k]
    this.writeTangents(at)
    contacts.readRadii(contact, radii)
    rows[at + RADIUS_A] = radii[0]
    rows[at + RADIUS_B] = radii[1]
    rows[at + FRICTION] = surface[PAIR_FRICTION]
    rows[at + RESTITUTION] = surface[PAIR_RESTITUTION]
    const count = contacts.count.data[contact]
    this.findMiddle(at, contact, count)
    for (let k = 0; k < 3; k++) {
      rows[at + LEVER_A + k] = middle[k] - centres[CENTRE_A + k]
      rows[at + LEVER_B + k] = middle[k] - centres[CENTRE_B + k]
    }
    yields.fill(0)
    this.addYields(at, a, at + LEVER_A)
    this.addYields(at, b, at + LEVER_B)
    this.readMotion(at, a, b)
    for (let k = 0; k < count; k++) {
      const from = (CONTACT_WORDS * contact + POINT_WORDS * k) & PLACE
      const to = (at + HEAD + POINT * k) & PLACE
      const x = points[from + POINT_X] - middle[0]
      const y = points[from + POINT_X + 1] - middle[1]
      const z = points[from + POINT_X + 2] - middle[2]
      const first = x * rows[at + SECOND] + y * rows[at + SECOND + 1] + z * rows[at + SECOND + 2]
      const second = -(x * rows[at + FIRST] + y * rows[at + FIRST + 1] + z * rows[at + FIRST + 2])
      rows[to + BY_TURN_FIRST] = first
      rows[to + BY_TURN_SECOND] = second
      rows[to + HEIGHT] = x * rows[at + NORMAL] + y * rows[at + NORMAL + 1] + z * rows[at + NORMAL + 2]
      const along = yields[NORMAL_NORMAL] + first * yields[NORMAL_FIRST] + second * yields[NORMAL_SECOND]
      const byFirst = first * yields[FIRST_FIRST] + second * yields[FIRST_SECOND]
      const bySecond = first * yields[FIRST_SECOND] + second * yields[SECOND_SECOND]
      rows[to + CHANGE_ALONG] = along
      rows[to + CHANGE_FIRST] = yields[NORMAL_FIRST] + byFirst
      rows[to + CHANGE_SECOND] = yields[NORMAL_SECOND] + bySecond
      const total = along + first * rows[to + CHANGE_FIRST] + second * rows[to + CHANGE_SECOND]
      const parts = yields[NORMAL_NORMAL] + first * byFirst + second * bySecond
      rows[to + NORMAL_MASS] = total > RIGID * parts ? 1 / total : 0
      rows[to + GAP_AT_START] = points[from + POINT_GAP]
      rows[to + GAP] = points[from + POINT_GAP]
      rows[to + NORMAL_IMPULSE] = points[from + WARM_NORMAL]
      rows[to + NORMAL_TOTAL] = 0
      rows[to + MOST] = 0
      rows[to + SPEED] = this.apart(to)
    }
    this.fillFriction(at, contact)
  }

  /** Writes two tangents: the first away from the axis that the normal has most of. */
  private writeTangents(at: number): void {
    const { rows } = this
    const nx = rows[at + NORMAL]
    const ny = rows[at + NORMAL + 1]
    const nz = rows[at + NORMAL + 2]
    let tx = 0
    let ty = 0
    let tz = 0
    if (Math.abs(nx) > 0.7) {
      const length = Math.sqrt(nx * nx + ny * ny)
      tx = -ny / length
      ty = nx / length
    } else {
      const length = Math.sqrt(ny * ny + nz * nz)
      ty = -nz / length
      tz = ny / length
    }
    rows[at + FIRST] = tx
    rows[at + FIRST + 1] = ty
    rows[at + FIRST + 2] = tz
    rows[at + SECOND] = ny * tz - nz * ty
    rows[at + SECOND + 1] = nz * tx - nx * tz
    rows[at + SECOND + 2] = nx * ty - ny * tx
  }

  /** Finds the middle of what presses, where friction acts, and writes how far about that it is spread. */
  private findMiddle(at: number, contact: number, count: number): void {
    const { rows, contacts, middle, radii } = this
    const points = contacts.points.data
    const first = CONTACT_WORDS * contact
    // By what pressed in the last tick; a point that is new counts as much as the others on average.
    let pressed = 0
    let known = 0
    for (let k = 0; k < count; k++) {
      const warm = points[first + POINT_WORDS * k + WARM_NORMAL]
      pressed += warm
      if (warm > 0) known++
    }
    const average = known > 0 ? pressed / known : 1
    const total = average * (count - known) + pressed
    let mx = 0
    let my = 0
    let mz = 0
    for (let k = 0; k < count; k++) {
      const from = (first + POINT_WORDS * k) & PLACE
      const warm = points[from + WARM_NORMAL]
      const weight = (warm > 0 ? warm : average) / total
      mx += weight * points[from + POINT_X]
      my += weight * points[from + POINT_X + 1]
      mz += weight * points[from + POINT_X + 2]
    }
    let spread = 0
    for (let k = 0; k < count; k++) {
      const from = (first + POINT_WORDS * k) & PLACE
      const x = points[from + POINT_X] - mx
      const y = points[from + POINT_X + 1] - my
      const z = points[from + POINT_X + 2] - mz
      spread += Math.sqrt(x * x + y * y + z * z) / count
    }
    middle[0] = mx
    middle[1] = my
    middle[2] = mz
    rows[at + TWIST_RADIUS] = TWIST_PART * Math.max(spread, PATCH * Math.max(radii[0], radii[1]))
  }

  /** Adds how far a body of a row gives way to impulses in its frame. */
  private addYields(row: number, body: number, arm: number): void {
    const { rows, yields } = this
    const { data: bodies } = this.bodyRows
    const at = row & PLACE
    const c = body & PLACE
    const lever = arm & PLACE
    const nx = rows[at + NORMAL]
    const ny = rows[at + NORMAL + 1]
    const nz = rows[at + NORMAL + 2]
    const tx = rows[at + FIRST]
    const ty = rows[at + FIRST + 1]
    const tz = rows[at + FIRST + 2]
    const ux = rows[at + SECOND]
    const uy = rows[at + SECOND + 1]
    const uz = rows[at + SECOND + 2]
    const xx = bodies[c + SX]
    const yy = bodies[c + SX + 1]
    const zz = bodies[c + SX + 2]
    const xy = bodies[c + SX + 3]
    const xz = bodies[c + SX + 4]
    const yz = bodies[c + SX + 5]
    // Its inverse inertia about the axes of the frame, and where the middle lies along them.
    const snx = xx * nx + xy * ny + xz * nz
    const sny = xy * nx + yy * ny + yz * nz
    const snz = xz * nx + yz * ny + zz * nz
    const stx = xx * tx + xy * ty + xz * tz
    const sty = xy * tx + yy * ty + yz * tz
    const stz = xz * tx + yz * ty + zz * tz
    const nn = snx * nx + sny * ny + snz * nz
    const nt = snx * tx + sny * ty + snz * tz
    const nu = snx * ux + sny * uy + snz * uz
    const tt = stx * tx + sty * ty + stz * tz
    const tu = stx * ux + sty * uy + stz * uz
    const uu =
      (xx * ux + xy * uy + xz * uz) * ux + (xy * ux + yy * uy + yz * uz) * uy + (xz * ux + yz * uy + zz * uz) * uz
    const x = rows[lever]
    const y = rows[lever + 1]
    const z = rows[lever + 2]
    const rn = x * nx + y * ny + z * nz
    const rt = x * tx + y * ty + z * tz
    const ru = x * ux + y * uy + z * uz
    // How impulses along the three turn it about the three.
    const alongN = nt * ru - nu * rt
    const alongT = tt * ru - tu * rt
    const alongU = tu * ru - uu * rt
    const firstN = nu * rn - nn * ru
    const firstT = tu * rn - nt * ru
    const firstU = uu * rn - nu * ru
    const secondN = nn * rt - nt * rn
    const secondT = nt * rt - tt * rn
    const secondU = nu * rt - tu * rn
    const mx = bodies[c + IX]
    const my = bodies[c + IX + 1]
    const mz = bodies[c + IX + 2]
    yields[OF_FIRST] += mx * nx * tx + my * ny * ty + mz * nz * tz + rn * alongU - ru * alongN
    yields[OF_FIRST + 1] += firstN
    yields[OF_FIRST + 2] += firstT
    yields[OF_FIRST + 3] += firstU
    yields[OF_SECOND] += mx * nx * ux + my * ny * uy + mz * nz * uz + rt * alongN - rn * alongT
    yields[OF_SECOND + 1] += secondN
    yields[OF_SECOND + 2] += secondT
    yields[OF_SECOND + 3] += secondU
    yields[OF_TWIST] += alongN
    yields[OF_TWIST + 1] += nt
    yields[OF_TWIST + 2] += nu
    yields[NORMAL_NORMAL] += mx * nx * nx + my * ny * ny + mz * nz * nz + ru * alongT - rt * alongU
    yields[NORMAL_FIRST] += alongT
    yields[NORMAL_SECOND] += alongU
    yields[FIRST_FIRST] += tt
    yields[FIRST_SECOND] += tu
    yields[SECOND_SECOND] += uu
    yields[SLIP] += mx * tx * tx + my * ty * ty + mz * tz * tz + rn * firstU - ru * firstN
    yields[SLIP + 1] += mx * tx * ux + my * ty * uy + mz * tz * uz + rt * firstN - rn * firstT
    yields[SLIP + 2] += mx * ux * ux + my * uy * uy + mz * uz * uz + rt * secondN - rn * secondT
    yields[SPIN] += nn
  }

  /** Writes how fast the bodies of a row come apart at its middle, along the normal, and turn about the tangents. */
  private readMotion(at: number, a: number, b: number): void {
    const { rows, motion } = this
    const { data: bodies } = this.bodyRows
    const ax = rows[at + LEVER_A]
    const ay = rows[at + LEVER_A + 1]
    const az = rows[at + LEVER_A + 2]
    const bx = rows[at + LEVER_B]
    const by = rows[at + LEVER_B + 1]
    const bz = rows[at + LEVER_B + 2]
    const wax = bodies[a + WX]
    const way = bodies[a + WX + 1]
    const waz = bodies[a + WX + 2]
    const wbx = bodies[b + WX]
    const wby = bodies[b + WX + 1]
    const wbz = bodies[b + WX + 2]
    const x = bodies[b + VX] - bodies[a + VX] + (wby * bz - wbz * by) - (way * az - waz * ay)
    const y = bodies[b + VX + 1] - bodies[a + VX + 1] + (wbz * bx - wbx * bz) - (waz * ax - wax * az)
    const z = bodies[b + VX + 2] - bodies[a + VX + 2] + (wbx * by - wby * bx) - (wax * ay - way * ax)
    const wx = wbx - wax
    const wy = wby - way
    const wz = wbz - waz
    motion[0] = x * rows[at + NORMAL] + y * rows[at + NORMAL + 1] + z * rows[at + NORMAL + 2]
    motion[1] = wx * rows[at + FIRST] + wy * rows[at + FIRST + 1] + wz * rows[at + FIRST + 2]
    motion[2] = wx * rows[at + SECOND] + wy * rows[at + SECOND + 1] + wz * rows[at + SECOND + 2]
  }

  /** How fast a point comes apart along the normal, of a row whose motion was read. */
  private apart(p: number): number {
    const { rows, motion } = this
    return motion[0] + rows[p + BY_TURN_FIRST] * motion[1] + rows[p + BY_TURN_SECOND] * motion[2]
  }

  /** Gives the bodies of a row what stands in {@link given}. */
  private press(row: number, bodyA: number, bodyB: number): void {
    const { rows, given } = this
    const { data: bodies } = this.bodyRows
    const at = row & PLACE
    const a = bodyA & PLACE
    const b = bodyB & PLACE
    const nx = rows[at + NORMAL]
    const ny = rows[at + NORMAL + 1]
    const nz = rows[at + NORMAL + 2]
    const tx = rows[at + FIRST]
    const ty = rows[at + FIRST + 1]
    const tz = rows[at + FIRST + 2]
    const ux = rows[at + SECOND]
    const uy = rows[at + SECOND + 1]
    const uz = rows[at + SECOND + 2]
    const px = given[ALONG] * nx + given[ALONG_FIRST] * tx + given[ALONG_SECOND] * ux
    const py = given[ALONG] * ny + given[ALONG_FIRST] * ty + given[ALONG_SECOND] * uy
    const pz = given[ALONG] * nz + given[ALONG_FIRST] * tz + given[ALONG_SECOND] * uz
    const mx = given[ABOUT] * nx + given[ABOUT_FIRST] * tx + given[ABOUT_SECOND] * ux
    const my = given[ABOUT] * ny + given[ABOUT_FIRST] * ty + given[ABOUT_SECOND] * uy
    const mz = given[ABOUT] * nz + given[ABOUT_FIRST] * tz + given[ABOUT_SECOND] * uz
    const ax = rows[at + LEVER_A + 1] * pz - rows[at + LEVER_A + 2] * py + mx
    const ay = rows[at + LEVER_A + 2] * px - rows[at + LEVER_A] * pz + my
    const az = rows[at + LEVER_A] * py - rows[at + LEVER_A + 1] * px + mz
    const bx = rows[at + LEVER_B + 1] * pz - rows[at + LEVER_B + 2] * py + mx
    const by = rows[at + LEVER_B + 2] * px - rows[at + LEVER_B] * pz + my
    const bz = rows[at + LEVER_B] * py - rows[at + LEVER_B + 1] * px + mz
    bodies[a + VX] -= px * bodies[a + IX]
    bodies[a + VX + 1] -= py * bodies[a + IX + 1]
    bodies[a + VX + 2] -= pz * bodies[a + IX + 2]
    bodies[a + WX] -= bodies[a + SX] * ax + bodies[a + SX + 3] * ay + bodies[a + SX + 4] * az
    bodies[a + WX + 1] -= bodies[a + SX + 3] * ax + bodies[a + SX + 1] * ay + bodies[a + SX + 5] * az
    bodies[a + WX + 2] -= bodies[a + SX + 4] * ax + bodies[a + SX + 5] * ay + bodies[a + SX + 2] * az
    bodies[b + VX] += px * bodies[b + IX]
    bodies[b + VX + 1] += py * bodies[b + IX + 1]
    bodies[b + VX + 2] += pz * bodies[b + IX + 2]
    bodies[b + WX] += bodies[b + SX] * bx + bodies[b + SX + 3] * by + bodies[b + SX + 4] * bz
    bodies[b + WX + 1] += bodies[b + SX + 3] * bx + bodies[b + SX + 1] * by + bodies[b + SX + 5] * bz
    bodies[b + WX + 2] += bodies[b + SX + 4] * bx + bodies[b + SX + 5] * by + bodies[b + SX + 2] * bz
  }

  /** The rows of friction, across the normal and about it. */
  private fillFriction(at: number, contact: number): void {
    const { rows, contacts, surface, yields } = this
    const first11 = yields[SLIP]
    const first12 = yields[SLIP + 1]
    const first22 = yields[SLIP + 2]
    const determinant = first11 * first22 - first12 * first12
    // Where it gives way in one direction alone, the other stays free.
    const solvable = determinant > SOLVABLE * first11 * first22
    rows[at + FRICTION_MASS] = solvable ? first22 / determinant : first11 > 0 ? 1 / first11 : 0
    rows[at + FRICTION_MASS + 1] = solvable ? -first12 / determinant : 0
    rows[at + FRICTION_MASS + 2] = solvable ? first11 / determinant : first22 > 0 ? 1 / first22 : 0
    const twist = yields[SPIN]
    rows[at + TWIST_MASS] = twist > 0 ? 1 / twist : 0
    for (let k = 0; k < NORMAL_NORMAL; k++) rows[at + BY_FIRST + k] = yields[k]
    // The first is to move so past the second; speeds here are of the second as seen from the first.
    const friction = contacts.friction.data
    const f = FRICTION_WORDS * contact
    for (let i = 0; i < 2; i++) {
      const t = at + FIRST + 3 * i
      rows[at + WANTED + i] = -(
        surface[PAIR_SPEED] * rows[t] +
        surface[PAIR_SPEED + 1] * rows[t + 1] +
        surface[PAIR_SPEED + 2] * rows[t + 2]
      )
      rows[at + FRICTION_IMPULSE + i] =
        friction[f] * rows[t] + friction[f + 1] * rows[t + 1] + friction[f + 2] * rows[t + 2]
    }
    rows[at + TWIST_IMPULSE] = friction[f + 3]
    rows[at + FRICTION_TOTAL] = rows[at + FRICTION_TOTAL + 1] = 0
  }

  override prepare(time: Float64Array): void {
    this.writeSoftness(time[SUBSTEP])
    const { rows, links, count } = this
    const { data: bodies } = this.bodyRows
    for (let i = 0; i < count; i++) {
      const a = BODY * links[LINKS * i + ROW_A] + IX
      const b = BODY * links[LINKS * i + ROW_B] + IX
      this.soften(
        bodies[a] + bodies[a + 1] + bodies[a + 2],
        bodies[b] + bodies[b + 1] + bodies[b + 2],
        rows,
        ROW * i + RATE,
      )
    }
  }

  override warmStart(): void {
    const { rows, links, count, owes, given } = this
    this.owes = false
    for (let i = 0; i < count; i++) {
      const at = (ROW * i) & PLACE
      const end = at + HEAD + POINT * links[LINKS * i + POINTS]
      if (owes) this.sumRow(at, end)
      let along = 0
      let first = 0
      let second = 0
      for (let place = at + HEAD; place < end; place += POINT) {
        const p = place & PLACE
        const impulse = rows[p + NORMAL_IMPULSE]
        along += impulse
        first += impulse * rows[p + BY_TURN_FIRST]
        second += impulse * rows[p + BY_TURN_SECOND]
      }
      given[ALONG] = along
      given[ALONG_FIRST] = rows[at + FRICTION_IMPULSE]
      given[ALONG_SECOND] = rows[at + FRICTION_IMPULSE + 1]
      given[ABOUT] = rows[at + TWIST_IMPULSE]
      given[ABOUT_FIRST] = first
      given[ABOUT_SECOND] = second
      this.press(at, BODY * links[LINKS * i + ROW_A], BODY * links[LINKS * i + ROW_B])
    }
  }

  /** Measures the gaps of the points of a row that end at a place, once the bodies have moved on. */
  private measure(row: number, end: number, bodyA: number, bodyB: number): void {
    const { rows } = this
    const { data: bodies } = this.bodyRows
    const at = row & PLACE
    const a = bodyA & PLACE
    const b = bodyB & PLACE
    const nx = rows[at + NORMAL]
    const ny = rows[at + NORMAL + 1]
    const nz = rows[at + NORMAL + 2]
    // How the turns of this tick move a point of each body along the normal: by its arm times this.
    const ax = bodies[a + RX] * nx + bodies[a + RX + 3] * ny + bodies[a + RX + 6] * nz
    const ay = bodies[a + RX + 1] * nx + bodies[a + RX + 4] * ny + bodies[a + RX + 7] * nz
    const az = bodies[a + RX + 2] * nx + bodies[a + RX + 5] * ny + bodies[a + RX + 8] * nz
    const bx = bodies[b + RX] * nx + bodies[b + RX + 3] * ny + bodies[b + RX + 6] * nz
    const by = bodies[b + RX + 1] * nx + bodies[b + RX + 4] * ny + bodies[b + RX + 7] * nz
    const bz = bodies[b + RX + 2] * nx + bodies[b + RX + 5] * ny + bodies[b + RX + 8] * nz
    // What turns is where the cores of the two pieces are nearest: a radius does not turn away.
    const moved =
      (bodies[b + DX] - bodies[a + DX]) * nx +
      (bodies[b + DX + 1] - bodies[a + DX + 1]) * ny +
      (bodies[b + DX + 2] - bodies[a + DX + 2]) * nz +
      (bx * rows[at + LEVER_B] + by * rows[at + LEVER_B + 1] + bz * rows[at + LEVER_B + 2]) -
      (ax * rows[at + LEVER_A] + ay * rows[at + LEVER_A + 1] + az * rows[at + LEVER_A + 2]) +
      (bx * nx + by * ny + bz * nz) * rows[at + RADIUS_B] +
      (ax * nx + ay * ny + az * nz) * rows[at + RADIUS_A]
    const x = bx - ax
    const y = by - ay
    const z = bz - az
    const first = x * rows[at + FIRST] + y * rows[at + FIRST + 1] + z * rows[at + FIRST + 2]
    const second = x * rows[at + SECOND] + y * rows[at + SECOND + 1] + z * rows[at + SECOND + 2]
    const up = x * nx + y * ny + z * nz
    for (let place = at + HEAD; place < end; place += POINT) {
      const p = place & PLACE
      rows[p + GAP] =
        rows[p + GAP_AT_START] +
        moved +
        rows[p + BY_TURN_FIRST] * second -
        rows[p + BY_TURN_SECOND] * first +
        rows[p + HEIGHT] * up
    }
  }

  /**
   * One pass over all contacts, of each friction and twist, then its points along the normal. With `soft`, overlaps are pushed apart.
   *
   * The points of a face are solved there and back in a soft pass, and from alternating ends in the passes that follow. Always the same way, a face
   * would lean to the side of its last point, and towers would sway.
   */
  override solve(time: Float64Array, soft: boolean): void {
    const { measured } = this
    // After a soft pass the bodies move on.
    this.measured = !soft
    if (!soft) this.relaxed++
    const back = !soft && (this.relaxed & 1) === 1
    const { rows, links, count, push } = this
    const { data: bodies } = this.bodyRows
    const inverse = 1 / time[SUBSTEP]
    let largest = 0
    for (let i = 0; i < count; i++) {
      const a = (BODY * links[LINKS * i + ROW_A]) & PLACE
      const b = (BODY * links[LINKS * i + ROW_B]) & PLACE
      const points = links[LINKS * i + POINTS]
      const at = (ROW * i) & PLACE
      const end = at + HEAD + POINT * points
      if (!measured) this.measure(at, end, a, b)
      const nx = rows[at + NORMAL]
      const ny = rows[at + NORMAL + 1]
      const nz = rows[at + NORMAL + 2]
      const tx = rows[at + FIRST]
      const ty = rows[at + FIRST + 1]
      const tz = rows[at + FIRST + 2]
      const ux = rows[at + SECOND]
      const uy = rows[at + SECOND + 1]
      const uz = rows[at + SECOND + 2]
      const rax = rows[at + LEVER_A]
      const ray = rows[at + LEVER_A + 1]
      const raz = rows[at + LEVER_A + 2]
      const rbx = rows[at + LEVER_B]
      const rby = rows[at + LEVER_B + 1]
      const rbz = rows[at + LEVER_B + 2]
      const wax = bodies[a + WX]
      const way = bodies[a + WX + 1]
      const waz = bodies[a + WX + 2]
      const wbx = bodies[b + WX]
      const wby = bodies[b + WX + 1]
      const wbz = bodies[b + WX + 2]
      // How the two move against each other at the middle; written out for the same reason as below.
      const vx = bodies[b + VX] - bodies[a + VX] + (wby * rbz - wbz * rby) - (way * raz - waz * ray)
      const vy = bodies[b + VX + 1] - bodies[a + VX + 1] + (wbz * rbx - wbx * rbz) - (waz * rax - wax * raz)
      const vz = bodies[b + VX + 2] - bodies[a + VX + 2] + (wbx * rby - wby * rbx) - (wax * ray - way * rax)
      const wx = wbx - wax
      const wy = wby - way
      const wz = wbz - waz
      let apart = vx * nx + vy * ny + vz * nz
      let turnFirst = wx * tx + wy * ty + wz * tz
      let turnSecond = wx * ux + wy * uy + wz * uz

      let pressed = 0
      for (let p = at + HEAD; p < end; p += POINT) pressed += rows[p + NORMAL_IMPULSE]
      const most = rows[at + FRICTION] * pressed
      const before = rows[at + FRICTION_IMPULSE]
      const besides = rows[at + FRICTION_IMPULSE + 1]
      const was = rows[at + TWIST_IMPULSE]
      let f = 0
      let g = 0
      let twist = 0
      // Where nothing presses, what friction held is let go.
      if (most > 0 || before !== 0 || besides !== 0 || was !== 0) {
        const vt = vx * tx + vy * ty + vz * tz - rows[at + WANTED]
        const vu = vx * ux + vy * uy + vz * uz - rows[at + WANTED + 1]
        f = before - (rows[at + FRICTION_MASS] * vt + rows[at + FRICTION_MASS + 1] * vu)
        g = besides - (rows[at + FRICTION_MASS + 1] * vt + rows[at + FRICTION_MASS + 2] * vu)
        const square = f * f + g * g
        if (square > most * most) {
          const part = most / Math.sqrt(square)
          f *= part
          g *= part
        }
        rows[at + FRICTION_IMPULSE] = f
        rows[at + FRICTION_IMPULSE + 1] = g
        f -= before
        g -= besides
        const spin = wx * nx + wy * ny + wz * nz + f * rows[at + BY_FIRST + 1] + g * rows[at + BY_SECOND + 1]
        const twistMost = most * rows[at + TWIST_RADIUS]
        twist = was - rows[at + TWIST_MASS] * spin
        if (twist > twistMost) twist = twistMost
        else if (twist < -twistMost) twist = -twistMost
        rows[at + TWIST_IMPULSE] = twist
        twist -= was
        apart += f * rows[at + BY_FIRST] + g * rows[at + BY_SECOND] + twist * rows[at + BY_TWIST]
        turnFirst += f * rows[at + BY_FIRST + 2] + g * rows[at + BY_SECOND + 2] + twist * rows[at + BY_TWIST + 1]
        turnSecond += f * rows[at + BY_FIRST + 3] + g * rows[at + BY_SECOND + 3] + twist * rows[at + BY_TWIST + 2]
      }

      const iax = bodies[a + IX]
      const iay = bodies[a + IX + 1]
      const iaz = bodies[a + IX + 2]
      const ibx = bodies[b + IX]
      const iby = bodies[b + IX + 1]
      const ibz = bodies[b + IX + 2]
      const rate = rows[at + RATE]
      const softMass = rows[at + MASS_PART]
      const softImpulse = rows[at + IMPULSE_PART]
      const gives = (iax + ibx) * nx * nx + (iay + iby) * ny * ny + (iaz + ibz) * nz * nz
      let along = 0
      let aboutFirst = 0
      let aboutSecond = 0
      const solved = soft && points > 2 ? 2 * points - 1 : points
      const turned = back && points > 2
      let step = turned ? -POINT : POINT
      let place = turned ? end - POINT : at + HEAD
      for (let k = 1; k <= solved; k++, place += step) {
        const p = place & PLACE
        const first = rows[p + BY_TURN_FIRST]
        const second = rows[p + BY_TURN_SECOND]
        const gap = rows[p + GAP]
        const held = rows[p + NORMAL_IMPULSE]
        let mass = rows[p + NORMAL_MASS]
        let kept = held
        let bias = 0
        if (gap > 0) bias = gap * inverse
        else if (soft) {
          bias = rate * gap
          if (bias < -push) bias = -push
          mass *= softMass
          kept -= softImpulse * held
        }
        let normal = kept - mass * (apart + bias + first * turnFirst + second * turnSecond)
        if (normal < 0) normal = 0
        rows[p + NORMAL_IMPULSE] = normal
        if (normal > rows[p + MOST]) rows[p + MOST] = normal
        const j = normal - held
        const change = j * gives
        if (change > largest) largest = change
        else if (-change > largest) largest = -change
        along += j
        aboutFirst += j * first
        aboutSecond += j * second
        apart += j * rows[p + CHANGE_ALONG]
        turnFirst += j * rows[p + CHANGE_FIRST]
        turnSecond += j * rows[p + CHANGE_SECOND]
        if (k === points) step = -POINT
      }

      // As press() does, written out here: through its scratch a pass takes a tenth longer.
      const px = along * nx + f * tx + g * ux
      const py = along * ny + f * ty + g * uy
      const pz = along * nz + f * tz + g * uz
      const mx = twist * nx + aboutFirst * tx + aboutSecond * ux
      const my = twist * ny + aboutFirst * ty + aboutSecond * uy
      const mz = twist * nz + aboutFirst * tz + aboutSecond * uz
      const tax = ray * pz - raz * py + mx
      const tay = raz * px - rax * pz + my
      const taz = rax * py - ray * px + mz
      const tbx = rby * pz - rbz * py + mx
      const tby = rbz * px - rbx * pz + my
      const tbz = rbx * py - rby * px + mz
      bodies[a + VX] -= px * iax
      bodies[a + VX + 1] -= py * iay
      bodies[a + VX + 2] -= pz * iaz
      bodies[a + WX] = wax - (bodies[a + SX] * tax + bodies[a + SX + 3] * tay + bodies[a + SX + 4] * taz)
      bodies[a + WX + 1] = way - (bodies[a + SX + 3] * tax + bodies[a + SX + 1] * tay + bodies[a + SX + 5] * taz)
      bodies[a + WX + 2] = waz - (bodies[a + SX + 4] * tax + bodies[a + SX + 5] * tay + bodies[a + SX + 2] * taz)
      bodies[b + VX] += px * ibx
      bodies[b + VX + 1] += py * iby
      bodies[b + VX + 2] += pz * ibz
      bodies[b + WX] = wbx + (bodies[b + SX] * tbx + bodies[b + SX + 3] * tby + bodies[b + SX + 4] * tbz)
      bodies[b + WX + 1] = wby + (bodies[b + SX + 3] * tbx + bodies[b + SX + 1] * tby + bodies[b + SX + 5] * tbz)
      bodies[b + WX + 2] = wbz + (bodies[b + SX + 4] * tbx + bodies[b + SX + 5] * tby + bodies[b + SX + 2] * tbz)
    }
    if (largest > time[CHANGE]) time[CHANGE] = largest
  }

  /** What a substep has given is added up when the next one goes through the rows. */
  override sum(): void {
    this.owes = true
  }

  override finish(): void {
    const { links, count } = this
    for (let i = 0; i < count; i++) this.sumRow(ROW * i, ROW * i + HEAD + POINT * links[LINKS * i + POINTS])
    super.finish()
  }

  private sumRow(at: number, end: number): void {
    const { rows } = this
    rows[at + FRICTION_TOTAL] += rows[at + FRICTION_IMPULSE]
    rows[at + FRICTION_TOTAL + 1] += rows[at + FRICTION_IMPULSE + 1]
    for (let p = at + HEAD; p < end; p += POINT) rows[p + NORMAL_TOTAL] += rows[p + NORMAL_IMPULSE]
  }

  protected override pullTogether(row: number): number {
    const { rows, links } = this
    const { data: bodies } = this.bodyRows
    const a = BODY * links[LINKS * row + ROW_A]
    const b = BODY * links[LINKS * row + ROW_B]
    let pull = 0
    for (let k = 0; k < 3; k++) pull += (bodies[a + AX + k] - bodies[b + AX + k]) * rows[ROW * row + NORMAL + k]
    return pull
  }

  protected override readSpeed(row: number, p: number): void {
    const { links, speed } = this
    this.readMotion(ROW * row, BODY * links[LINKS * row + ROW_A], BODY * links[LINKS * row + ROW_B])
    speed[0] = this.apart(p)
  }

  protected override give(row: number, p: number, impulse: number): void {
    const { rows, links, given } = this
    rows[p + NORMAL_TOTAL] += impulse
    given.fill(0)
    given[ALONG] = impulse
    given[ABOUT_FIRST] = impulse * rows[p + BY_TURN_FIRST]
    given[ABOUT_SECOND] = impulse * rows[p + BY_TURN_SECOND]
    this.press(ROW * row, BODY * links[LINKS * row + ROW_A], BODY * links[LINKS * row + ROW_B])
  }

  protected override readImpulses(row: number, contact: number, out: Float64Array): void {
    const { rows, links, contacts } = this
    const points = contacts.points.data
    const friction = contacts.friction.data
    const at = ROW * row
    const f = rows[at + FRICTION_IMPULSE]
    const g = rows[at + FRICTION_IMPULSE + 1]
    for (let k = 0; k < 3; k++) {
      friction[FRICTION_WORDS * contact + k] = f * rows[at + FIRST + k] + g * rows[at + SECOND + k]
    }
    friction[FRICTION_WORDS * contact + 3] = rows[at + TWIST_IMPULSE]
    const tf = rows[at + FRICTION_TOTAL]
    const tg = rows[at + FRICTION_TOTAL + 1]
    out[SUM_FRICTION] += Math.sqrt(tf * tf + tg * tg)
    for (let k = 0; k < links[LINKS * row + POINTS]; k++) {
      const p = at + HEAD + POINT * k
      const to = CONTACT_WORDS * contact + POINT_WORDS * k
      points[to + WARM_NORMAL] = rows[p + NORMAL_IMPULSE]
      const total = rows[p + NORMAL_TOTAL]
      points[to + TOTAL] = total
      out[SUM_NORMAL] += total
      if (total > 0 && -rows[p + SPEED] > out[CLOSING]) out[CLOSING] = -rows[p + SPEED]
    }
  }
}
