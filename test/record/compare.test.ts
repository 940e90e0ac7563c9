/** Where two runs part is found: the tick, the line, the value. And runs that play again: from their inputs, and from the middle. */
import assert from 'node:assert/strict'
import { readFileSync } from 'node:fs'
import { test } from 'node:test'
import { loadModels, playScene, readScene, type Scene, type ScenePlayer } from '../../scenes-package/src/scene/index.ts'
import { box, circle, createWorld, defineLayers, type World2 } from '../../src/2d/index.ts'
import * as three from '../../src/3d/index.ts'
import {
  compareLogs,
  compareWorlds,
  differenceText,
  EventLog,
  eventLine,
  headerLine,
  InputLog,
  inputsJsonSchema,
  type LogLine,
  readLog,
  replay,
  saveHeader,
  stateLine,
} from '../../src/record/index.ts'
import { DIMENSIONS, type Dimension } from '../helpers/dimensions.ts'
import { throwsKeen } from '../helpers/throws.ts'

const folder = new URL('../../scenes/', import.meta.url)
const layers = defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })

async function open(name: string) {
  const scene = readScene(JSON.parse(readFileSync(new URL(`${name}.json`, folder), 'utf8'))) as Scene
  return { scene, models: await loadModels(scene, (file) => readFileSync(new URL(file, folder))) }
}

/** What a run leaves: events, and the hash of each tick. */
function played(player: ScenePlayer, ticks: number): LogLine[] {
  const { world } = player
  const lines: string[] = []
  const log = new EventLog(headerLine('scene', '0'.repeat(64), '2d', world.rate, world.tick), (line) =>
    lines.push(line),
  )
  for (let i = 0; i < ticks; i++) {
    for (const event of player.step().events) log.add(eventLine(event as never))
    log.add(stateLine(world))
  }
  log.finish(ticks)
  return readLog(lines.join(''))
}

for (const name of ['lantern-reef', 'sea-floor', 'wreck', 'sluice', 'gallery', 'mine', 'salvage']) {
  test(`${name}: played twice it is the same, and so from the middle on, in another process as well`, async () => {
    const { scene, models } = await open(name)
    const player = () => playScene(scene, models)
    const { ticks } = player()
    const whole = played(player(), Math.min(ticks, 900))
    const half = Math.floor(Math.min(ticks, 900) / 2)
    const first = player()
    for (let i = 0; i < half; i++) first.step()
    const [bytes, state] = [first.world.save(), JSON.parse(JSON.stringify(first.state()))]
    assert.equal(saveHeader(bytes).tick, half)
    const rest = player()
    rest.resume(bytes, state)
    const second = played(rest, Math.min(ticks, 900) - half)
    const tail = whole.filter((line) => 'tick' in line && 'kind' in line && line.tick > half)
    assert.equal(compareLogs([second[0], ...tail, second.at(-1)!], second), null)
  })
}

/** Crates that fall, one of them nudged by one bit after a tick. */
function crates(nudgeAfter: number | null): { lines: LogLine[]; world: World2; worlds: Uint8Array[] } {
  const world = createWorld({ layers })
  world.watch('craft', 'rock')
  world.add({ type: 'static', name: 'floor', colliders: [{ shape: box(20, 1), layer: 'rock' }] })
  for (let i = 0; i < 6; i++)
    world.add({
      type: 'dynamic',
      name: `crate ${i}`,
      at: { x: i - 3, y: 2 + i },
      colliders: [{ shape: box(0.8, 0.8), layer: 'craft' }],
    })
  const text: string[] = []
  const worlds: Uint8Array[] = []
  const log = new EventLog(headerLine('crates', '0'.repeat(64), '2d', 60), (line) => text.push(line))
  for (let tick = 1; tick <= 120; tick++) {
    world.step()
    if (tick === nudgeAfter) {
      const body = world.find('crate 3')!
      body.velocity = { x: nextUp(body.velocity.x), y: body.velocity.y }
    }
    for (const event of world.events()) if (event.joint === null) log.add(eventLine(event))
    log.add(stateLine(world))
    worlds.push(world.save())
  }
  log.finish(120)
  return { lines: readLog(text.join('')), world, worlds }
}

function nextUp(value: number): number {
  const double = Float64Array.of(value)
  const word = new BigInt64Array(double.buffer)
  word[0] += value < 0 ? -1n : 1n
  return double[0]
}

test('one bit that is changed in one tick is found in that tick, with whose it is', () => {
  const plain = crates(null)
  for (const tick of [1, 17, 60, 119]) {
    const other = crates(tick)
    const found = compareLogs(plain.lines, other.lines)!
    assert.equal(found.tick, tick)
    assert.deepEqual(found.fields, ['hash'])
    const [a, b] = [plain, other].map(({ worlds }) => {
      const world = createWorld({ layers })
      world.restore(worlds[tick - 1])
      return world
    })
    const value = compareWorlds(a, b)!
    assert.deepEqual([value.what, value.field], ['body crate 3', 'velocity.x'])
    assert.match(
      differenceText(value),
      /^body crate 3: velocity\.x is -?[\d.e-]+ in the first, -?[\d.e-]+ in the second$/,
    )
    const before = compareWorlds(
      ...([plain, other].map(({ worlds }) => {
        const world = createWorld({ layers })
        if (tick > 1) world.restore(worlds[tick - 2])
        return world
      }) as [World2, World2]),
    )
    assert.equal(before, null)
  }
})

test('logs: what is missing, what is more, what has other numbers; hashes only where both have them', () => {
  const { lines } = crates(null)
  assert.equal(compareLogs(lines, lines), null)
  const plain = lines.filter((line) => !('kind' in line && line.kind === 'state'))
  assert.equal(compareLogs(plain, lines), null)
  assert.equal(compareLogs(lines, plain), null)
  const at = plain.findIndex((line) => 'cause' in line)
  const event = plain[at] as Extract<LogLine, { cause: string; dwell: number }>
  const gone = compareLogs(plain, plain.toSpliced(at, 1))!
  assert.equal(gone.tick, event.tick)
  assert.equal(gone.line.a, at + 1)
  const last = compareLogs(plain.slice(0, -2), plain)!
  assert.equal(last.line.a, null)
  const changed = compareLogs(plain, plain.with(at, { ...event, when: 0.5 } as LogLine))!
  assert.deepEqual([changed.tick, changed.fields], [event.tick, ['when']])
  const faster = compareLogs(plain, plain.with(0, { ...plain[0], rate: 50 } as LogLine))!
  assert.deepEqual(faster.fields, ['rate'])
  assert.equal(
    compareLogs(plain, plain.with(0, { ...plain[0], scene: 'another', hash: '1'.repeat(64) } as LogLine)),
    null,
  )
  const longer = compareLogs(plain, plain.with(-1, { ...plain.at(-1)!, ticks: 121 } as LogLine))!
  assert.deepEqual(longer.fields, ['ticks'])
  throwsKeen('bad-argument', /compareLogs takes two logs/, () => compareLogs([], plain))
  throwsKeen('bad-argument', /compareWorlds takes two worlds, got null/, () =>
    compareWorlds(null as never, null as never),
  )
})

test('worlds: a body more, a layer, a joint, a pair table; and what cannot be read', () => {
  const make = (change: (world: World2) => void) => {
    const world = createWorld({ layers })
    world.watch('craft', 'zone')
    world.add({ type: 'dynamic', name: 'craft', colliders: [{ shape: circle(1), layer: 'craft' }] })
    world.add({ type: 'static', at: { x: 0, y: 5 }, colliders: [{ shape: circle(1), layer: 'rock' }] })
    change(world)
    return world
  }
  const found = (change: (world: World2) => void, other = (_: World2): void => {}) => {
    const value = compareWorlds(make(change), make(other))
    return value && differenceText(value)
  }
  assert.equal(
    found(() => {}),
    null,
  )
  assert.equal(
    found((world) => void world.add({ type: 'static', name: 'late' })),
    'body late is in the first only',
  )
  assert.equal(
    found(
      () => {},
      (world) => void world.add({ type: 'static' }),
    ),
    'body #3 is in the second only',
  )
  assert.equal(
    found((world) => (world.find('craft')!.colliders[0].layer = 'zone')),
    'collider 0 of craft: layerBits is 4 in the first, 2 in the second',
  )
  assert.equal(
    found((world) => (world.gravity = { x: 0, y: -3 })),
    'the world: gravity.y is -3 in the first, -9.8 in the second',
  )
  assert.equal(
    found((world) => world.setPair('craft', 'rock', 'pass')),
    'the pair table: rock with craft is pass in the first, solid in the second',
  )
  const rope = (max: number) => (world: World2) =>
    void world.join({
      type: 'distance',
      a: world.find('craft')!,
      atA: { x: 0, y: 0 },
      atB: { x: 0, y: 3 },
      max,
    } as never)
  assert.match(found(rope(3))!, /^joint .* is in the first only$/)
  assert.match(
    found(rope(3), rope(4))!,
    /^all that can be read is the same, but not the hash: contacts, sleep, or what watches have told /,
  )
  assert.match(
    found(
      (world) => world.step(),
      () => {},
    )!,
    /^the world: tick is 1 in the first, 0 in the second$/,
  )
  const space = three.createWorld({ layers })
  assert.equal(compareWorlds(space, three.createWorld({ layers })), null)
})

/** A craft that is steered by what comes from outside. */
function steered({ at, box, circle, createWorld }: Dimension = DIMENSIONS[0]) {
  const world = createWorld({ layers }) as World2
  world.add({ type: 'static', colliders: [{ shape: box(40, 1), layer: 'rock' }] })
  const craft = world.add({
    type: 'dynamic',
    name: 'craft',
    at: at(0, 3),
    colliders: [{ shape: circle(0.5), layer: 'craft' }],
  })
  const apply = (input: unknown) => {
    const { push } = input as { push: number }
    ;(craft.alive ? world.find('craft')! : craft).applyImpulse(at(push, 0.5))
  }
  return { world, apply }
}

function recorded(hashEvery?: number, dimension = DIMENSIONS[0]): string {
  const { world, apply } = steered(dimension)
  let text = ''
  const log = new InputLog(world, (line) => (text += line), { hashEvery, about: { level: 'reef' } })
  for (let tick = 0; tick < 200; tick++) {
    if (tick % 7 === 3) {
      const input = { push: Math.sin(tick) }
      log.input(input)
      apply(input)
    }
    world.step()
    log.stepped()
  }
  log.finish()
  return text
}

for (const dimension of DIMENSIONS) {
  test(`${dimension.name}: a run is played again from its inputs, and hashes say that it is the same`, () => {
    const { world, apply } = steered(dimension)
    const { parted, ...rest } = replay(recorded(60, dimension), world, apply)
    assert.equal(parted, null)
    assert.deepEqual(rest, { ticks: 200, inputs: 29, compared: 4, finished: true })
  })
}

test('a run that is played otherwise is found out, and one that was cut off is played as far as it goes', () => {
  const text = recorded()
  // Played otherwise it parts, and the first hash that is another one is told.
  const other = steered()
  const found = replay(recorded(1), other.world, (input) => {
    if (other.world.tick !== 45) other.apply(input)
  })
  assert.equal(found.parted!.tick, 46)
  assert.equal(other.world.tick, 46)
  // What was cut off is played as far as it goes.
  const cut = steered()
  const part = replay(text.slice(0, 900), cut.world, cut.apply)
  assert.deepEqual([part.parted, part.finished], [null, false])
  assert.ok(part.ticks > 20 && part.ticks < 200)
})

test('the published schema of input logs is the one of the definition', () => {
  const published = JSON.parse(readFileSync(new URL('../../schema/input-log.schema.json', import.meta.url), 'utf8'))
  assert.deepEqual(published, JSON.parse(JSON.stringify(inputsJsonSchema())), 'run `npm run schema`')
})

test('what is no such log, or of another world, is refused', () => {
  const text = recorded()
  const play = (log: unknown, change = (_: World2): void => {}) => {
    const { world, apply } = steered()
    change(world)
    return replay(log as string, world, apply)
  }
  throwsKeen('bad-log', /begins at tick 0 with a world of hash/, () => play(text, (world) => world.step()))
  throwsKeen('bad-log', /line 1 of the input log is not JSON/, () => play('x'))
  throwsKeen('bad-log', /line 3 of the input log is of tick 1, after one of/, () => {
    const lines = text.split('\n')
    play([lines[0], lines[1], lines[1].replace(/"tick":\d+/, '"tick":1'), ''].join('\n'))
  })
  throwsKeen('bad-argument', /takes the text of a log, got null/, () => play(null))
  throwsKeen('bad-argument', /replay takes a world/, () => replay(text, null as never, () => {}))
  throwsKeen('bad-argument', /applies inputs by a function/, () => replay(text, steered().world, null as never))
  const { world } = steered()
  const log = new InputLog(world, () => {})
  throwsKeen('bad-argument', /something that JSON can hold, got a function/, () => log.input(() => 1))
  throwsKeen('bad-argument', /belongs after each step/, () => log.stepped())
  throwsKeen('bad-number', /'hashEvery'/, () => new InputLog(world, () => {}, { hashEvery: -1 }))
  throwsKeen('bad-argument', /is of a world, got null/, () => new InputLog(null as never, () => {}))
})
