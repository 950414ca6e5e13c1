import { defineWebSocketHandler } from 'h3'
import { object } from 'yup'
import { BAUD, WireError } from '../../../wires'
import { plainNumber, text } from '../../../core/document'
import { askedOf, end, onlyOurs, say } from '../../wires/sockets'
import { UsedWire } from '../../wires/wires'

/**
 * A wire for a page, as a socket: `?address=…&baud=…`. From the page come bytes, with one before them that says what they are for: 0, to go over the wire now; 1, last
 * words, to be left here. To the page go bytes as they come, and as text how it stands: `{"open": true}` or `{"gone": why}`. When the socket ends, however it does, the
 * last words go out and the wire is closed.
 */

/** Last words are short: a few bytes for each device. */
const MOST_WORDS = 4096
/** And what goes out in a piece is what a tick says. */
const MOST_BYTES = 65_536

const schema = object({
  address: text().min(1).max(200).required(),
  baud: plainNumber().integer('expected a whole number of bits a second').min(300).max(4_000_000).default(BAUD),
}).noUnknown()

const used = new Map<string, UsedWire>()

export default defineWebSocketHandler({
  upgrade: onlyOurs,
  async open(peer) {
    const asked = askedOf<{ readonly address: string, readonly baud: number }>(peer, schema, ['baud'])
    if (asked === null) return
    const wire = new UsedWire(asked.address, { heard: (bytes) => { peer.send(bytes) }, gone: (why) => { end(peer, why) } })
    used.set(peer.id, wire)
    try {
      await wire.open(asked.baud)
      say(peer, { open: true })
    } catch (error) {
      if (!(error instanceof WireError)) throw error
      end(peer, error.message)
    }
  },
  message(peer, message) {
    const wire = used.get(peer.id)
    if (wire === undefined) return
    const bytes = message.uint8Array()
    if (bytes[0] === 0) wire.send(bytes.slice(1, 1 + MOST_BYTES))
    else if (bytes[0] === 1) wire.lastWords = bytes.slice(1, 1 + MOST_WORDS)
  },
  async close(peer) {
    const wire = used.get(peer.id)
    used.delete(peer.id)
    await wire?.letGo()
  },
})
