/** One of the two, in a worker of its own: it knows its keys, and what the network brings. */
import { drawWorld2 } from 'keen-sentry/draw'
import { ARENA, autopilot } from './match.ts'
import { type Message, Session } from './session.ts'

/** What the page tells the worker. */
export type ToPlayer =
  | { readonly kind: 'begin'; readonly me: 0 | 1 }
  | { readonly kind: 'keys'; readonly keys: number | null }
  | { readonly kind: 'play'; readonly playing: boolean }
  | { readonly kind: 'message'; readonly message: Message }

/** What the worker tells the page. */
export type FromPlayer =
  | { readonly kind: 'message'; readonly message: Message }
  | {
      readonly kind: 'view'
      readonly list: ReturnType<typeof drawWorld2>
      readonly score: readonly [number, number]
      readonly tick: number
      readonly confirmed: number
      readonly again: number
      readonly longest: number
      readonly waited: number
      readonly compared: number
      readonly parted: number | null
      readonly steered: boolean
      /** Where the own craft is. */
      readonly craft: { readonly x: number; readonly y: number }
    }

const RATE = 60
const post = (told: FromPlayer): void => self.postMessage(told)

let session: Session | null = null
let me: 0 | 1 = 0
/** Null: nobody is at the keys. */
let keys: number | null = null
let playing = true
let due = performance.now()

self.addEventListener('message', ({ data }: MessageEvent<ToPlayer>) => {
  if (data.kind === 'begin') {
    me = data.me
    session = new Session(me)
  } else if (data.kind === 'keys') keys = data.keys
  else if (data.kind === 'play') playing = data.playing
  else session?.receive(data.message)
})

setInterval(() => {
  const now = performance.now()
  if (session === null || !playing) {
    due = now
    return
  }
  // Of a long pause nothing is made up for.
  if (now - due > 250) due = now
  for (; due <= now; due += 1000 / RATE) {
    session.play(keys ?? autopilot(session.match, me))
    post({ kind: 'message', message: session.message() })
  }
  const { match, tick, confirmed, again, longest, waited, compared, parted } = session
  const list = drawWorld2(match.world, { view: ARENA, labels: false, highlight: match.crafts[me] })
  const numbers = { tick, confirmed, again, longest, waited, compared, parted }
  post({ kind: 'view', list, score: match.score, steered: keys !== null, craft: match.crafts[me].at, ...numbers })
}, 1000 / RATE)
