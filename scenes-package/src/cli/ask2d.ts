/** Questions of the command line to a scene of 2D. */
import type { AskingShape2, Vec2 } from 'keen-sentry/2d'
import { type DrawList, type Question2, questionItems2 } from 'keen-sentry/draw'
import { readShape, type ScenePlayer2 } from '../scene/index.ts'
import { type AskOptions, filterOf, type Got, type Kind, put, shapeBy } from './asked.ts'
import { Failure, USAGE } from './failure.ts'
import { planeList, refuseCamera, withItems } from './picture.ts'

/** The answer to a question, and the picture of both. */
export function askPlane(
  player: ScenePlayer2,
  kind: Kind,
  options: AskOptions,
): { got: Got<Vec2>; picture: () => DrawList } {
  refuseCamera(options)
  const question = questionOf(kind, options)
  const got = answerTo(player, question, options)
  return { got, picture: () => withItems(planeList(player), questionItems2(question, got.answers)) }
}

function questionOf(kind: Kind, options: AskOptions): Question2 {
  if (options.rotation !== undefined) throw new Failure('--rotation is of 3d scenes; a 2d scene takes --angle', USAGE)
  const { angle = 0, turn = [0] } = options
  if (turn.length !== 1) throw new Failure('--turn of a 2d scene takes one number, in radians', USAGE)
  const point = (field: 'from' | 'to' | 'at'): Vec2 => {
    const numbers = options[field]!
    if (numbers.length !== 2) throw new Failure(`--${field} of a 2d scene takes two numbers, as 3,-1.5`, USAGE)
    return { x: numbers[0], y: numbers[1] }
  }
  if (kind === 'ray') return { kind, from: point('from'), to: point('to') }
  if (kind === 'nearest') {
    const shape = options.shape === undefined ? null : shapeOf(options.shape)
    return { kind, shape, at: point('at'), angle }
  }
  const shape = shapeOf(options.shape!)
  if (kind === 'overlap') return { kind, shape, at: point('at'), angle }
  return { kind, shape, from: point('from'), to: point('to'), angle, turn: turn[0] }
}

function answerTo({ world }: ScenePlayer2, question: Question2, options: AskOptions): Got<Vec2> {
  const { mode, reach } = options
  const filter = filterOf(world, options)
  if (question.kind === 'ray') {
    const { from, to } = question
    return put(mode, world.raycast, { from, to }, filter)
  }
  if (question.kind === 'shape') {
    const { from, to, angle, turn } = question
    return put(mode, world.shapecast, { shape: question.shape as AskingShape2, from, to, angle, turn }, filter)
  }
  const { at, angle } = question
  const shape = question.shape as AskingShape2
  if (question.kind === 'overlap') return put(mode, world.overlap, { shape, at, angle, depth: true }, filter)
  return put(mode, world.nearest, shape === null ? { point: at, reach } : { shape, at, angle, reach }, filter)
}

const FORMS = 'circle:RADIUS, box:WIDTH,HEIGHT, capsule:AX,AY,BX,BY,RADIUS'

function shapeOf(text: string): AskingShape2 {
  return shapeBy(text, short, (json) => readShape(json, '2d'), FORMS) as AskingShape2
}

function short(kind: string, n: readonly number[]): object | null {
  if (kind === 'circle' && n.length === 1) return { kind, radius: n[0] }
  if (kind === 'box' && n.length === 2) return { kind, width: n[0], height: n[1] }
  if (kind === 'capsule' && n.length === 5) return { kind, a: [n[0], n[1]], b: [n[2], n[3]], radius: n[4] }
  return null
}
