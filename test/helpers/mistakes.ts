/**
 * Mistakes that are easily made in code: what one does, what `explain` says of it, and the cure that works. The tests play them, and
 * docs/nothing-happens.md is made from them.
 */
import assert from 'node:assert/strict'
import { defineLayers } from '../../src/2d/index.ts'
import type { DIMENSIONS } from './dimensions.ts'

const layers = defineLayers(['rock', 'craft', 'zone'], { pairs: [['zone', '*', 'sense']] })

export function mistakesOf({ at, box, circle, about, createWorld }: (typeof DIMENSIONS)[number]) {
  /** A craft over a floor, with a watch on the two. */
  function scene() {
    const world = createWorld({ layers })
    const floor = world.add({
      type: 'static',
      name: 'floor',
      colliders: [{ shape: box(20, 1), layer: 'rock' }],
    })
    const craft = world.add({
      type: 'dynamic',
      name: 'craft',
      at: at(0, 3),
      colliders: [{ shape: circle(0.5), layer: 'craft' }],
    })
    const told: string[] = []
    const listen = () => world.watch('craft', 'rock', { begin: (e) => void told.push(`begin ${e.cause}`) })
    const watch = world.watch('craft', 'rock', { begin: (e) => void told.push(`begin ${e.cause}`) }, { key: 'landing' })
    const hooks: { stop(): void }[] = []
    const run = (ticks: number) => {
      for (let i = 0; i < ticks; i++) world.step()
    }
    return { world, floor, craft, told, run, watch, listen, hooks }
  }
  type Scene = ReturnType<typeof scene>

  interface Mistake {
    readonly name: string
    /** What somebody sees who made it. */
    readonly sees: string
    /** What is done wrong, up to the moment when one asks. */
    readonly wrong: (s: Scene) => void
    readonly says: RegExp
    readonly cure: RegExp
    /** The cure, applied before the same is done once more. */
    readonly right: (s: Scene) => void
    /** What the twin does: the same, put right. */
    readonly again?: (s: Scene) => void
  }

  const lands = (s: Scene): void => {
    s.run(120)
    assert.ok(s.craft.at.y > 0.98 && s.craft.at.y < 1.01, `it lies at ${s.craft.at.y}`)
    assert.ok(s.told.length > 0)
  }

  const mistakes: Mistake[] = [
    {
      name: 'a floor that is a sensor',
      sees: 'It falls through the floor.',
      wrong: (s) => {
        s.floor.colliders[0].sensor = true
        s.run(90)
      },
      says: /collider 0 of floor: a sensor, which never presses/,
      cure: /^floor\.colliders\[0\]\.sensor = false$/,
      right: (s) => {
        s.floor.colliders[0].sensor = false
      },
    },
    {
      name: 'layers that only sense each other',
      sees: 'It falls through the floor.',
      wrong: (s) => {
        s.world.setPair('craft', 'rock', 'sense')
        s.run(90)
      },
      says: /their layers sense each other, so neither presses/,
      cure: /^world\.setPair\('craft', 'rock', 'solid'\)$/,
      right: (s) => s.world.setPair('craft', 'rock', 'solid'),
    },
    {
      name: 'a craft that is not dynamic',
      sees: 'It floats in the air.',
      wrong: (s) => {
        s.craft.type = 'kinematic'
        s.run(60)
      },
      says: /craft is kinematic, floor is static: neither gravity nor contacts move/,
      cure: /^craft\.type = 'dynamic'/,
      right: (s) => {
        s.craft.type = 'dynamic'
      },
    },
    {
      name: 'gravity upwards',
      sees: 'It falls upwards.',
      wrong: (s) => {
        s.world.gravity = at(0, 9.8)
        s.run(30)
      },
      says: /y is up: craft falls upwards/,
      cure: /^world\.gravity = \{ x: 0, y: -9\.8/,
      right: (s) => {
        s.world.gravity = at(0, -9.8)
      },
    },
    {
      name: 'gravity scaled to nothing',
      sees: 'It floats in the air.',
      wrong: (s) => {
        s.craft.gravityScale = 0
        s.run(30)
      },
      says: /gravity does not pull craft/,
      cure: /^craft\.gravityScale = 1$/,
      right: (s) => {
        s.craft.gravityScale = 1
      },
    },
    {
      name: 'gravity scaled to less than nothing',
      sees: 'It falls upwards.',
      wrong: (s) => {
        s.craft.gravityScale = -1
        s.run(30)
      },
      says: /craft falls upwards, by its gravityScale/,
      cure: /^craft\.gravityScale = 1$/,
      right: (s) => {
        s.craft.gravityScale = 1
      },
    },
    {
      name: 'a fast body whose way is not followed',
      sees: 'It went through a wall at speed.',
      wrong: (s) => {
        s.craft.sweep = 'off'
        s.craft.velocity = at(0, -2000)
        s.run(3)
      },
      says: /came within the last \d ticks, at 2000 m\/s \(33\.3 m a tick\), lies the other/,
      cure: /^craft\.sweep = 'statics'/,
      right: (s) => {
        s.craft.sweep = 'statics'
      },
      again: (s) => {
        s.craft.velocity = at(0, -2000)
      },
    },
    {
      name: 'a body that is led through a wall',
      sees: 'It went through a wall, though it is slow enough.',
      wrong: (s) => {
        s.craft.type = 'kinematic'
        s.craft.velocity = at(0, -200)
        s.run(5)
      },
      says: /went through/,
      cure: /craft\.travel\(by\) stops at what is solid/,
      right: () => {},
      again: (s) => {
        s.craft.type = 'kinematic'
        s.craft.travel(at(0, -200))
      },
    },
    {
      name: 'a body that is moved by teleports',
      sees: 'It goes through walls, moved by hand.',
      wrong: (s) => {
        s.craft.type = 'kinematic'
        for (let i = 1; i < 8; i++) {
          s.craft.teleport(at(0, 3.8 - 2.5 * i))
          s.run(1)
        }
      },
      says: /teleported over it, as it is in tick after tick/,
      cure: /arriveAt\(\) or a velocity, which are swept, or by travel\(\)/,
      right: () => {},
      again: (s) => {
        s.craft.type = 'kinematic'
        for (let i = 1; i < 8; i++) {
          s.craft.travel(at(0, -1.7))
          s.run(1)
        }
      },
    },
    {
      name: 'asked before the first step',
      sees: 'Nothing is reported, though they touch.',
      wrong: (s) => s.craft.teleport(at(0, 0.9)),
      says: /the world has not stepped: nothing is told yet/,
      cure: /^world\.step\(\)$/,
      right: (s) => s.run(1),
    },
    {
      name: 'a pair of layers that lets pass',
      sees: 'It falls through the floor.',
      wrong: (s) => {
        s.world.setPair('craft', 'rock', 'pass')
        s.run(90)
      },
      says: /lets rock pass/,
      cure: /^world\.setPair\('craft', 'rock', /,
      right: (s) => s.world.setPair('craft', 'rock', 'solid'),
    },
    {
      name: 'a pair that was told to ignore each other',
      sees: 'It falls through the floor.',
      wrong: (s) => {
        s.craft.ignore(s.floor)
        s.run(90)
      },
      says: /craft and floor were told to ignore each other/,
      cure: /^take it back with unignore\(\)$/,
      right: (s) => s.craft.unignore(s.floor),
    },
    {
      name: 'a joint that keeps its bodies from touching',
      sees: 'It falls through the floor, on a rope.',
      wrong: (s) => {
        s.world.join({ type: 'distance', name: 'rope', a: s.craft, b: s.floor, atA: at(0, 3), atB: at(0, 0), max: 9 })
        s.run(90)
      },
      says: /the distance 'rope' of craft and floor keeps them from touching/,
      cure: /^set 'touching' of the joint to true$/,
      right: (s) => {
        for (const joint of s.world.joints()) joint.touching = true
      },
    },
    {
      name: 'an anchor that is given as a point of the body',
      sees: 'It turns about a point far away.',
      wrong: (s) => {
        s.craft.teleport(at(60, 40))
        s.floor.teleport(at(60, 36))
        s.world.join({ type: 'hinge', name: 'pivot', a: s.craft, b: s.floor, at: at(0, 0), touching: true, ...about })
        s.run(1)
      },
      says: /the hinge 'pivot' holds craft \d+\.?\d* m away from its shapes/,
      cure: /^give 'at' as a point of the world/,
      right: (s) => {
        for (const joint of s.world.joints()) joint.remove()
        s.floor.teleport(at(0, 0))
      },
    },
    {
      name: 'two joints that cannot both hold',
      sees: 'It trembles between two joints.',
      wrong: (s) => {
        s.world.join({ type: 'distance', name: 'stay', a: s.craft, b: s.floor, atA: at(0, 3), atB: at(0, 0), max: 2 })
        s.world.join({ type: 'distance', name: 'prop', a: s.craft, b: s.floor, atA: at(0, 3), atB: at(0, 0), min: 4 })
        s.run(60)
      },
      says: /the distance 'stay' is torn by [\d.]+ m, the distance 'prop' bears [\d.]+ N: they pull against each other/,
      cure: /or remove one$/,
      right: (s) => {
        for (const joint of s.world.joints()) joint.remove()
      },
    },
    {
      name: 'a floor that is switched off',
      sees: 'It falls through the floor.',
      wrong: (s) => {
        s.floor.enabled = false
        s.run(90)
      },
      says: /floor is disabled/,
      cure: /^set enabled = true on floor$/,
      right: (s) => {
        s.floor.enabled = true
      },
    },
    {
      name: 'a hook that answers pass',
      sees: 'It falls through the floor.',
      wrong: (s) => {
        s.hooks.push(s.world.decide('craft', 'rock', () => 'pass'))
        s.run(42)
      },
      says: /a decide hook answered 'pass' when they came into touch/,
      cure: /^let the hook answer otherwise/,
      right: (s) => {
        for (const hook of s.hooks) hook.stop()
      },
    },
    {
      name: 'no watch covers the two',
      sees: 'They touch, and nothing is reported.',
      wrong: (s) => {
        s.watch.stop()
        s.run(120)
      },
      says: /no watch covers them/,
      cure: /world\.watch\(/,
      right: (s) => s.listen(),
    },
    {
      name: 'two bodies that are both static',
      sees: 'They overlap, and nothing is reported.',
      wrong: (s) => {
        s.craft.type = 'static'
        s.craft.teleport(at(0, 0.9))
        s.run(2)
      },
      says: /both are static/,
      cure: /^make one of them 'kinematic'/,
      right: (s) => {
        s.craft.type = 'dynamic'
      },
    },
  ]

  return { scene, mistakes, lands }
}
