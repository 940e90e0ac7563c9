/** Questions of the command line to a scene of 3D. */
import type { AskingShape3, Rotation, Vec3 } from 'keen-sentry/3d'
import { type DrawList, type Question3, questionItems3 } from 'keen-sentry/draw'
import { readShape, type ScenePlayer3 } from '../scene/index.ts'
import { type AskOptions, filterOf, type Got, type Kind, put, shapeBy } from './asked.ts'
import { Failure, USAGE } from './failure.ts'
import { spaceList, spacePoint } from './picture.ts'

const UPRIGHT: Rotation = { x: 0, y: 0, z: 0, w: 1 }
const NO_TURN: Vec3 = { x: 0, y: 0, z: 0 }

/** The answer to a question, and the picture of both. */
export function askSpace(
  player: ScenePlayer3,
  kind: Kind,
  options: AskOptions,
): { got: Got<Vec3>; picture: () => DrawList } {
  const question = questionOf(kind, options)
  const got = answerTo(player, question, options)
  return { got, picture: () => spaceList(player, options, questionItems3(question, got.answers)) }
}

function questionOf(kind: Kind, options: AskOptions): Question3 {
  if (options.angle !== undefined) throw new Failure('--angle is of 2d scenes; a 3d scene takes --rotation', USAGE)
  const rotation = options.rotation === undefined ? UPRIGHT : rotationOf(options.rotation)
  const turn = options.turn === undefined ? NO_TURN : spacePoint(options.turn, 'turn')
  const point = (field: 'from' | 'to' | 'at'): Vec3 => spacePoint(options[field]!, field)
  if (kind === 'ray') return { kind, from: point('from'), to: point('to') }
  if (kind === 'nearest') {
    const shape = options.shape === undefined ? null : shapeOf(options.shape)
    return { kind, shape, at: point('at'), rotation }
  }
  const shape = shapeOf(options.shape!)
  if (kind === 'overlap') return { kind, shape, at: point('at'), rotation }
  return { kind, shape, from: point('from'), to: point('to'), rotation, turn }
}

function rotationOf(numbers: readonly number[]): Rotation {
  const [x, y, z, w] = numbers
  if (numbers.length === 4 && numbers.some((each) => each !== 0)) return { x, y, z, w }
  throw new Failure('--rotation takes the four numbers of a quaternion, as 0,0.7071,0,0.7071', USAGE)
}

function answerTo({ world }: ScenePlayer3, question: Question3, options: AskOptions): Got<Vec3> {
  const { mode, reach } = options
  const filter = filterOf(world, options)
  if (question.kind === 'ray') {
    const { from, to } = question
    return put(mode, world.raycast, { from, to }, filter)
  }
  if (question.kind === 'shape') {
    const { from, to, rotation, turn } = question
    return put(mode, world.shapecast, { shape: question.shape as AskingShape3, from, to, rotation, turn }, filter)
  }
  const { at, rotation } = question
  const shape = question.shape as AskingShape3
  if (question.kind === 'overlap') return put(mode, world.overlap, { shape, at, rotation, depth: true }, filter)
  return put(mode, world.nearest, shape === null ? { point: at, reach } : { shape, at, rotation, reach }, filter)
}

const FORMS = 'sphere:RADIUS, box:X,Y,Z, capsule:AX,AY,AZ,BX,BY,BZ,RADIUS, cylinder:HEIGHT,RADIUS, cone:HEIGHT,RADIUS'

function shapeOf(text: string): AskingShape3 {
  return shapeBy(text, short, (json) => readShape(json, '3d'), FORMS) as AskingShape3
}

function short(kind: string, n: readonly number[]): object | null {
  if (kind === 'sphere' && n.length === 1) return { kind, radius: n[0] }
  if (kind === 'box' && n.length === 3) return { kind, x: n[0], y: n[1], z: n[2] }
  if (kind === 'capsule' && n.length === 7) return { kind, a: n.slice(0, 3), b: n.slice(3, 6), radius: n[6] }
  if ((kind === 'cylinder' || kind === 'cone') && n.length === 2) return { kind, height: n[0], radius: n[1] }
  return null
}
