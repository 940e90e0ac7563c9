/** What the game sounds like: all of it is made by the browser itself, nothing is loaded. */
import type { Happening } from './game.ts'

/** Semitones above a low A. */
const note = (semitones: number): number => 110 * 2 ** (semitones / 12)

export class Sound {
  isOn = true
  private context: AudioContext | null = null
  private out: GainNode | null = null
  private engine: GainNode | null = null

  /** Browsers let a page sound only after something was pressed. */
  begin(): void {
    if (this.context !== null || !('AudioContext' in window)) return
    const context = new AudioContext()
    this.context = context
    this.out = context.createGain()
    this.out.gain.value = this.isOn ? 0.5 : 0
    this.out.connect(context.destination)
    // The engine hums all the time, and is heard when it pushes.
    const hum = context.createOscillator()
    hum.type = 'sawtooth'
    hum.frequency.value = 46
    const low = context.createBiquadFilter()
    low.frequency.value = 180
    this.engine = context.createGain()
    this.engine.gain.value = 0
    hum.connect(low).connect(this.engine).connect(this.out)
    hum.start()
  }

  setOn(isOn: boolean): void {
    this.isOn = isOn
    if (this.out !== null) this.out.gain.value = isOn ? 0.5 : 0
  }

  /** How hard the engine pushes, 0 to 1. */
  push(much: number): void {
    if (this.context === null || this.engine === null) return
    this.engine.gain.setTargetAtTime(0.12 * much, this.context.currentTime, 0.15)
  }

  take(happening: Happening): void {
    switch (happening.kind) {
      case 'ping':
        this.tone(note(39), note(38), 0.9, 0.25)
        this.tone(note(39), note(37), 1.4, 0.06, 0.35)
        break
      case 'hit':
        this.noise(0.25, 300, Math.min(0.8, 0.2 + happening.harm / 50))
        this.tone(80, 40, 0.25, Math.min(0.6, 0.2 + happening.harm / 60))
        break
      case 'blast':
        this.noise(1.6, 500, 0.9)
        this.tone(70, 25, 1.2, 0.7)
        break
      case 'sting':
        this.tone(note(43), note(31), 0.4, 0.25)
        break
      case 'pearl':
        for (const [i, step] of [36, 40, 43].entries()) this.tone(note(step), note(step), 0.25, 0.15, 0.07 * i)
        break
      case 'air':
        for (let i = 0; i < 5; i++) this.tone(note(24 + 3 * i), note(30 + 3 * i), 0.12, 0.12, 0.09 * i)
        break
      case 'grab':
        this.tone(note(19), note(24), 0.12, 0.25)
        break
      case 'release':
      case 'slip':
        this.tone(note(24), note(17), 0.14, 0.25)
        break
      case 'empty':
        this.tone(note(7), note(5), 0.12, 0.25)
        break
      case 'drop':
        this.tone(note(28), note(12), 0.4, 0.2)
        break
      case 'low':
        for (const at of [0, 0.22]) this.tone(note(34), note(34), 0.16, 0.2, at)
        break
      case 'lit':
        for (const [i, step] of [12, 19, 24, 28, 31].entries()) this.tone(note(step), note(step), 1.6, 0.14, 0.12 * i)
        break
      default:
    }
  }

  private tone(from: number, to: number, seconds: number, loud: number, after = 0): void {
    const { context, out } = this
    if (context === null || out === null || !this.isOn) return
    const begin = context.currentTime + after
    const tone = context.createOscillator()
    tone.frequency.setValueAtTime(from, begin)
    tone.frequency.exponentialRampToValueAtTime(to, begin + seconds)
    const gain = context.createGain()
    gain.gain.setValueAtTime(0, begin)
    gain.gain.linearRampToValueAtTime(loud, begin + 0.01)
    gain.gain.exponentialRampToValueAtTime(0.001, begin + seconds)
    tone.connect(gain).connect(out)
    tone.start(begin)
    tone.stop(begin + seconds)
  }

  private noise(seconds: number, below: number, loud: number): void {
    const { context, out } = this
    if (context === null || out === null || !this.isOn) return
    const length = Math.ceil(seconds * context.sampleRate)
    const buffer = context.createBuffer(1, length, context.sampleRate)
    const samples = buffer.getChannelData(0)
    for (let i = 0; i < length; i++) samples[i] = (2 * Math.random() - 1) * (1 - i / length) ** 2
    const source = context.createBufferSource()
    source.buffer = buffer
    const low = context.createBiquadFilter()
    low.frequency.value = below
    const gain = context.createGain()
    gain.gain.value = loud
    source.connect(low).connect(gain).connect(out)
    source.start()
  }
}
