/** Tones as they are heard, once somebody asks to hear them. */
export class Tones {
  private context: AudioContext | null = null
  private readonly voices = new Map<number, { tone: OscillatorNode; gain: GainNode }>()

  /** Begins to be heard: only a person's own press may start sound. */
  open() {
    this.context ??= new AudioContext()
    void this.context.resume()
  }

  /** What sounds now, by sounder: its pitch in Hz. */
  sound(now: ReadonlyMap<number, number>) {
    const context = this.context
    if (!context) return
    for (const [which, voice] of this.voices)
      if (!now.has(which)) {
        // Let go softly, so that it does not click.
        voice.gain.gain.setTargetAtTime(0, context.currentTime, 0.01)
        voice.tone.stop(context.currentTime + 0.08)
        this.voices.delete(which)
      }
    for (const [which, hz] of now) {
      const pitch = Math.min(5000, Math.max(60, hz || 660))
      const voice = this.voices.get(which)
      if (voice) {
        voice.tone.frequency.setTargetAtTime(pitch, context.currentTime, 0.005)
        continue
      }
      const tone = context.createOscillator()
      const gain = context.createGain()
      tone.type = 'triangle'
      tone.frequency.value = pitch
      gain.gain.value = 0
      gain.gain.setTargetAtTime(0.08, context.currentTime, 0.01)
      tone.connect(gain).connect(context.destination)
      tone.start()
      this.voices.set(which, { tone, gain })
    }
  }

  close() {
    this.sound(new Map())
    void this.context?.close()
    this.context = null
  }
}
