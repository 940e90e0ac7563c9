/**
 * Sliding, as simply as it can be said: a thousand small steps, and after each the body is pushed out of what it overlaps, and what is left of
 * the way loses the part that leads into it. What would turn it back stops it.
 */
import type { AskingShape2, Vec2, World2 } from '../../src/2d/index.ts'

const STEPS = 1000

/** Where a shape ends that slides. */
export function slideInSteps(world: World2, shape: AskingShape2, from: Vec2, by: Vec2, except: never): Vec2 {
  const at = { ...from }
  const rest = { ...by }
  for (let i = 0; i < STEPS; i++) {
    const step = { x: rest.x / (STEPS - i), y: rest.y / (STEPS - i) }
    at.x += step.x
    at.y += step.y
    rest.x -= step.x
    rest.y -= step.y
    for (let round = 0; round < 6; round++) {
      let deepest = { depth: 1e-12, x: 0, y: 0 }
      for (const { depth, normal } of world.overlap.all({ shape, at, depth: true }, { except })) {
        if (normal !== null && depth > deepest.depth) deepest = { depth, x: normal.x, y: normal.y }
      }
      if (deepest.x === 0 && deepest.y === 0) break
      at.x += deepest.x * deepest.depth
      at.y += deepest.y * deepest.depth
      const into = rest.x * deepest.x + rest.y * deepest.y
      if (into >= 0) continue
      rest.x -= into * deepest.x
      rest.y -= into * deepest.y
      if (rest.x * by.x + rest.y * by.y >= 0) continue
      rest.x = 0
      rest.y = 0
    }
  }
  return at
}
