import { onBeforeUnmount, watch } from 'vue'
import { useKept } from '~/composables/useKept'
import { useLive } from '~/composables/useLive'
import { useBenchStore } from './bench'
import { useProjectStore } from '~/draft/project'

/** How loud the horn is on the page, of 1. */
const VOLUME = 0.12
/** Seconds in which a tone comes and goes, so that it does not click. */
const FADE = 0.015

/** Whether horns are heard; this browser remembers. */
export const aloud = useKept('aloud', true)

/** Sounds the robot's horn while a run goes on at its own time: tones by their pitch, clips as they were brought. */
export function useAloud(): void {
  const bench = useBenchStore()
  const project = useProjectStore()
  let audio: AudioContext | null = null
  let oscillator: { node: OscillatorNode, gain: GainNode } | null = null
  let clip: { index: number, node: AudioBufferSourceNode | null } = { index: 0, node: null }

  function tone(pitch: number): void {
    if (pitch <= 0) {
      if (oscillator === null || audio === null) return
      oscillator.gain.gain.linearRampToValueAtTime(0, audio.currentTime + FADE)
      oscillator.node.stop(audio.currentTime + FADE)
      oscillator = null
      return
    }
    audio ??= new AudioContext()
    if (oscillator === null) {
      const gain = new GainNode(audio, { gain: 0 })
      const node = new OscillatorNode(audio, { frequency: pitch, type: 'triangle' })
      node.connect(gain).connect(audio.destination)
      gain.gain.linearRampToValueAtTime(VOLUME, audio.currentTime + FADE)
      node.start()
      oscillator = { node, gain }
    }
    oscillator.node.frequency.setValueAtTime(pitch, audio.currentTime)
  }

  /** Begins a clip (from 1), or ends the one that plays (0). */
  function play(index: number): void {
    if (index === clip.index) return
    clip.node?.stop()
    clip = { index, node: null }
    if (index === 0) return
    const { clips } = project.data?.robot as { clips?: { wav: string }[] }
    const wav = clips?.[index - 1]?.wav
    if (wav === undefined) return
    audio ??= new AudioContext()
    const bytes = Uint8Array.from(atob(wav), c => c.charCodeAt(0))
    const at = audio
    void at.decodeAudioData(bytes.buffer).then((buffer) => {
      if (clip.index !== index || clip.node !== null) return
      const node = new AudioBufferSourceNode(at, { buffer })
      node.connect(new GainNode(at, { gain: VOLUME * 4 })).connect(at.destination)
      node.start()
      clip.node = node
    })
  }
  function quiet(): void { tone(0); play(0) }

  useLive(30, () => {
    const { opened, row } = bench
    const horn = opened?.facts.devices.find(d => d.kind === 'horn')
    const channel = opened?.facts.actuators.find(a => a.name === horn?.name)?.channel
    if (!aloud.value || !bench.running || bench.cursor !== null || bench.speed > 2 || channel === undefined || row === null) { quiet(); return }
    const at = opened!.layout.commands + channel
    tone(row[at]!)
    const beside = bench.rows < row[at + 3]! ? row[at + 2]! : 0
    play(row[at + 1]! || beside)
  })
  watch(() => [bench.running, aloud.value], ([running, heard]) => { if (!running || !heard) quiet() })
  onBeforeUnmount(() => { quiet(); void audio?.close() })
}
