import { LETTER, type ScreenSize } from '~~/core/devices'
import { toBase64 } from '~~/core/base64'
import { LARGEST_CLIPS, readWav, reduced, type RobotPicture } from '~~/core/robot'
import { useRobotStore } from './robot'

/** A clip or a picture of a draft; its fields may still be wrong. */
export interface DraftClip { name?: string, wav?: string }
export type DraftPicture = Partial<RobotPicture>

/** Dots of a display that a robot without one may get. */
const USUAL: readonly [number, number] = [126, 64]
/** The largest picture file that is read, bytes. */
const LARGEST_FILE = 20_000_000

/** Takes files that a robot keeps for its programs: sound for the horn, pictures for a display. What was done, or why nothing was, in words. */
export function useKeptFiles() {
  const store = useRobotStore()

  async function takeClip(file: File): Promise<string> {
    const bytes = new Uint8Array(await file.arrayBuffer())
    const wav = toBase64(bytes)
    const read = readWav(wav)
    if (!read.ok) return `${file.name}: ${read.message}. Nothing was stored.`
    const clips = (store.draft['clips'] ?? []) as DraftClip[]
    const together = clips.reduce((sum, c) => sum + (c.wav?.length ?? 0) * 3 / 4, bytes.length)
    if (together > LARGEST_CLIPS) return `${file.name}: with it all clips are ${(together / 1e6).toFixed(1)} MB; allowed are ${LARGEST_CLIPS / 1e6} MB together. Nothing was stored.`
    const name = freeName(file.name, clips)
    store.change('', (d) => { ((d['clips'] ??= []) as DraftClip[]).push({ name, wav }) })
    return `Clip ${name} kept: play ${name}`
  }

  /** Reduced at once to the dots of the robot's largest display: nothing else of the file is kept. */
  async function takePicture(file: File): Promise<string> {
    if (file.size > LARGEST_FILE) return `${file.name} is ${(file.size / 1e6).toFixed(1)} MB; a picture may have ${LARGEST_FILE / 1e6} MB. Nothing was stored.`
    const displays = store.robot?.devices.flatMap(d => d.kind.kind === 'display' ? [d.parameters as ScreenSize] : []) ?? []
    const room = displays.map(d => [d.columns * LETTER.width, d.lines * LETTER.height] as const).sort((a, b) => b[0] * b[1] - a[0] * a[1])[0] ?? USUAL
    let bitmap: ImageBitmap
    try { bitmap = await createImageBitmap(file) } catch { return `${file.name} is no picture that this browser can read; a PNG is. Nothing was stored.` }
    const canvas = new OffscreenCanvas(bitmap.width, bitmap.height)
    const ctx = canvas.getContext('2d')!
    ctx.drawImage(bitmap, 0, 0)
    const { data } = ctx.getImageData(0, 0, bitmap.width, bitmap.height)
    const pictures = (store.draft['pictures'] ?? []) as DraftPicture[]
    const picture = reduced(freeName(file.name, pictures), data, bitmap.width, bitmap.height, room)
    store.change('', (d) => { ((d['pictures'] ??= []) as DraftPicture[]).push(picture) })
    return `Picture ${picture.name} kept, ${picture.size[0]} by ${picture.size[1]} dots: show picture ${picture.name}`
  }

  return { takeClip, takePicture }
}

/** A file's name as programs write names, and none that is taken. */
function freeName(file: string, all: readonly { readonly name?: string }[]): string {
  const plain = file.replace(/\.[^.]*$/, '').replaceAll(/[^A-Za-z0-9_]/g, '_').replace(/^([^A-Za-z]|$)/, 'k$1').slice(0, 28)
  const taken = new Set(all.map(x => x.name))
  for (let n = 1; ; n++) {
    const name = n === 1 ? plain : `${plain}_${n}`
    if (!taken.has(name)) return name
  }
}
