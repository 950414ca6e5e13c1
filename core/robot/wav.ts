import { fromBase64 } from '../base64'

/** The longest clip, seconds, and the largest file, bytes. */
const LONGEST = 10
const LARGEST = 1_500_000

/**
 * Reads the length of a WAV file (RIFF, uncompressed PCM) given as base64. An error says what it is instead.
 */
export function readWav(base64: string): { readonly ok: true, readonly seconds: number } | { readonly ok: false, readonly message: string } {
  if (base64.length > LARGEST * 4 / 3) return { ok: false, message: `the file is too large; allowed is up to ${LARGEST / 1e6} MB` }
  const bytes = fromBase64(base64)
  if (bytes === null) return { ok: false, message: 'expected a WAV file as base64 text' }
  const view = new DataView(bytes.buffer)
  const word = (at: number): string => at + 4 <= bytes.length ? String.fromCharCode(bytes[at]!, bytes[at + 1]!, bytes[at + 2]!, bytes[at + 3]!) : ''
  if (word(0) !== 'RIFF' || word(8) !== 'WAVE') return { ok: false, message: 'this is no WAV file: it does not begin with RIFF and WAVE' }
  let rate = 0
  for (let at = 12; at + 8 <= bytes.length;) {
    const size = view.getUint32(at + 4, true)
    if (word(at) === 'fmt ') {
      if (at + 24 > bytes.length) break
      const coding = view.getUint16(at + 8, true)
      if (coding !== 1) return { ok: false, message: `the WAV file is compressed (coding ${coding}); allowed is plain PCM (1)` }
      rate = view.getUint32(at + 16, true)
    }
    if (word(at) === 'data') {
      if (rate === 0) break
      const seconds = Math.min(size, bytes.length - at - 8) / rate
      if (seconds <= 0) return { ok: false, message: 'the WAV file holds no sound' }
      if (seconds > LONGEST) return { ok: false, message: `the clip lasts ${seconds.toFixed(1)} s; allowed is up to ${LONGEST} s` }
      return { ok: true, seconds }
    }
    at += 8 + size + size % 2
  }
  return { ok: false, message: 'the WAV file is cut off: it has no format or no data' }
}
