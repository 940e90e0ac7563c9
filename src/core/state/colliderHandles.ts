/**
 * The handles of colliders. Most are never asked for: of a million rocks in a level, hardly one. So a handle is made when somebody asks for it;
 * until then the shape is kept here, for a collider that lies at the origin of its body. Others get their handles at once.
 */
import type { StateVisitor } from '../save/state.ts'

/** What a handle is made from: the slot, whose columns say the rest, and the shape. */
export type MakeHandle<C> = (slot: number, shape: object) => C

export class ColliderHandles<C> {
  private readonly made: (C | null)[] = []
  /** Of the slots whose handle is still to be made. */
  private readonly shapes: (object | null)[] = []
  private make: MakeHandle<C> = () => {
    throw new Error('the world brings what makes handles')
  }

  /** The world brings what makes them, before there are any. */
  makeBy(make: MakeHandle<C>): void {
    this.make = make
  }

  /** The handle of a slot that a collider has. */
  of(slot: number): C {
    return this.made[slot] ?? this.makeNow(slot)
  }

  /** The handle of a slot if it was made already; otherwise nobody can hold it, and this is null. */
  known(slot: number): C | null {
    return this.made[slot] ?? null
  }

  /** The handle of a slot, or null where there is no collider. */
  find(slot: number): C | null {
    return this.made[slot] ?? (this.shapes[slot] ? this.makeNow(slot) : null)
  }

  /** A collider is in a slot, at the origin of its body. */
  wait(slot: number, shape: object): void {
    this.made[slot] = null
    this.shapes[slot] = shape
  }

  /** A collider is in a slot, with its handle. */
  put(slot: number, handle: C): void {
    this.made[slot] = handle
    this.shapes[slot] = null
  }

  /** The slot has no collider any more. */
  drop(slot: number): void {
    this.made[slot] = null
    this.shapes[slot] = null
  }

  /** All of them by their slots, made now where they were not; null where there is no collider. */
  all(): readonly (C | null)[] {
    for (let slot = 0; slot < this.shapes.length; slot++) if (this.shapes[slot]) this.makeNow(slot)
    return this.made
  }

  /** Its state: whoever takes it down asks for all of them, so that none is still to be made. */
  visit(v: StateVisitor): void {
    this.all()
    visitHandles(this.made, v)
  }

  private makeNow(slot: number): C {
    const handle = this.make(slot, this.shapes[slot]!)
    this.put(slot, handle)
    return handle
  }
}

/** The state of a list of handles: those that are not in the one that is put back are dead, while their slots still say their last words. */
export function visitHandles<H>(handles: (H | null)[], v: StateVisitor): void {
  const kept = v.objects(handles)
  if (kept === handles) return
  const staying = new Set(kept)
  for (const handle of handles) {
    const face = handle as unknown as { alive: boolean; markDead(): void } | null
    if (face?.alive && !staying.has(handle)) face.markDead()
  }
  handles.length = 0
  for (const handle of kept) handles.push(handle)
}
