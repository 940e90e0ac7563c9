/** How many rooms of a hundred bodies a core holds at 60 ticks a second: `npm run bench:rooms`. Rooms of the example of servers, played by four players each. */
import { Host } from '../examples/rooms/host.ts'
import { PLAYERS } from '../examples/rooms/room.ts'

const ROOMS = 40
const RATE = 60
const SAVE_EVERY = 120
/** The part of a core that is planned for: the rest is for what comes all at once. */
const PLANNED = 0.6

let saves = 0
let bytes = 0
let lines = 0
let inputs = 0
const host = new Host(
  {
    lines: (_, told) => (lines += told.length),
    applied: () => inputs++,
    due: (_, save) => {
      saves++
      bytes += save.length
    },
  },
  SAVE_EVERY,
)
for (let i = 0; i < ROOMS; i++) host.open(`room ${i}`, null, [], 100)

/** Steps for so many ticks; milliseconds a room and tick, and the longest tick of all rooms. */
function play(ticks: number, busy: boolean): { each: number; longest: number } {
  const begun = performance.now()
  let longest = 0
  for (let tick = 0; tick < ticks; tick++) {
    for (let room = 0; busy && room < ROOMS; room++) {
      // Each player does something ten times a second.
      if ((tick + room) % 6 !== 0) continue
      for (let player = 0; player < PLAYERS; player++) {
        const x = Math.sin(0.37 * tick + 2 * player + room)
        host.input(`room ${room}`, { player: `player ${player}`, x: 1.5 * x, y: 0.8 * Math.cos(0.05 * tick + player) })
      }
    }
    const from = performance.now()
    host.step()
    longest = Math.max(longest, performance.now() - from)
  }
  return { each: (performance.now() - begun) / ticks / ROOMS, longest }
}

function row(name: string, { each, longest }: { each: number; longest: number }): void {
  const most = Math.floor((PLANNED * 1000) / RATE / each)
  console.log(
    `${name.padEnd(34)} ${each.toFixed(3)} ms a room and tick   ${longest.toFixed(1)} ms the longest tick of ${ROOMS}   ${most} rooms a core`,
  )
}

row('begins: all fall', play(120, true))
;[saves, bytes, lines, inputs] = [0, 0, 0, 0]
row('played: four players a room', play(600, true))
const [savedBytes, seconds] = [bytes / saves, 600 / RATE]
console.log(
  `  of a room: ${(savedBytes / 1000).toFixed(0)} kB a save, ${(saves / ROOMS / seconds).toFixed(1)} saves, ${(inputs / ROOMS / seconds).toFixed(0)} inputs, ${(lines / ROOMS / seconds).toFixed(1)} lines a second`,
)
play(900, false)
row('15 s after all have left', play(300, false))
const from = performance.now()
for (let i = 0; i < ROOMS; i++) {
  const room = host.close(`room ${i}`)!
  host.open(`room ${i}`, room.bytes, [])
}
console.log(`a room handed over: ${((performance.now() - from) / ROOMS).toFixed(1)} ms to save, load and hash it twice`)
