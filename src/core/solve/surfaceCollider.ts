/** A collider and what its surface is like: what is known and set of that in either dimension. */
import { type BodyHandle, ColliderHandle, type Kinds } from '../state/handle.ts'
import { notNegative } from '../util/checks.ts'
import { DENSITY as MOST_DENSITY, FRICTION as MOST_FRICTION, RESTITUTION as MOST_RESTITUTION } from '../util/limits.ts'
import type { Host } from '../world.ts'
import { DENSITY, FRICTION, RESTITUTION, type Surfaces } from './surfaces.ts'

interface SurfaceHost extends Host {
  readonly kernel: { readonly surfaces: Surfaces; wakeTouching(collider: number): void }
  /** Sums mass and inertia of a body again. */
  weigh(body: number): void
}

export abstract class SurfaceCollider<K extends Kinds, B extends BodyHandle<K, unknown>> extends ColliderHandle<K, B> {
  /** @internal */ protected abstract override readonly host: SurfaceHost

  /** Kilograms a square length (2D), or a cubic one (3D). */
  get density(): number {
    return this.surface(DENSITY)
  }

  set density(value: number) {
    this.setSurface(DENSITY, checkDensity(value, "'density' of a collider"))
    this.host.weigh(this.body.slot)
  }

  /** 0 slides without end. Of a pair counts the root of the product. */
  get friction(): number {
    return this.surface(FRICTION)
  }

  set friction(value: number) {
    this.setSurface(FRICTION, checkFriction(value, "'friction' of a collider"))
  }

  /** 0 does not bounce, 1 bounces without loss. Of a pair counts the greater. */
  get restitution(): number {
    return this.surface(RESTITUTION)
  }

  set restitution(value: number) {
    this.setSurface(RESTITUTION, checkRestitution(value, "'restitution' of a collider"))
  }

  protected surface(field: number): number {
    const { surfaces } = this.host.kernel
    return this.alive ? surfaces.of.data[surfaces.size * this.slot + field] : 0
  }

  protected setSurface(field: number, value: number): void {
    this.change('surface')
    const { surfaces } = this.host.kernel
    surfaces.of.data[surfaces.size * this.slot + field] = value
    this.host.kernel.wakeTouching(this.slot)
  }
}

/** What a collider may be made with, in either dimension. */
export interface SurfaceSpec {
  /** Kilograms a square length (2D), or a cubic one (3D), for the mass of a dynamic body. Default 1. */
  density?: number | undefined
  /** 0 slides without end. Of a pair, the root of the product. Default 0.6. */
  friction?: number | undefined
  /** 0 does not bounce, 1 bounces without loss. Of a pair, the greater. Default 0. */
  restitution?: number | undefined
}

const DEFAULT_DENSITY = 1
const DEFAULT_FRICTION = 0.6

/** Whether a collider is to have the surface that colliders have, without a one-way side. */
export function isUsual(spec: SurfaceSpec & { readonly oneWay?: unknown }): boolean {
  return (
    spec.density === undefined &&
    spec.friction === undefined &&
    spec.restitution === undefined &&
    (spec.oneWay === undefined || spec.oneWay === null)
  )
}

/** Density, friction and restitution of a specification, checked. */
export function checkSurface(spec: SurfaceSpec, what: string): number[] {
  return [
    checkDensity(spec.density ?? DEFAULT_DENSITY, `'density' of ${what}`),
    checkFriction(spec.friction ?? DEFAULT_FRICTION, `'friction' of ${what}`),
    checkRestitution(spec.restitution ?? 0, `'restitution' of ${what}`),
  ]
}

function checkDensity(value: unknown, what: string): number {
  return notNegative(value, what, MOST_DENSITY)
}

function checkFriction(value: unknown, what: string): number {
  return notNegative(value, what, MOST_FRICTION)
}

function checkRestitution(value: unknown, what: string): number {
  return notNegative(value, what, MOST_RESTITUTION)
}
