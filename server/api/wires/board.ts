import { defineWebSocketHandler } from 'h3'
import { object } from 'yup'
import { plainNumber } from '../../../core/document'
import { WireError } from '../../../wires'
import { PosedBoard } from '../../wires/posed'
import { askedOf, end, onlyOurs, say } from '../../wires/sockets'

/**
 * A page's simulated robot as a board, as a socket: `?port=…`. The server listens at that port of this machine and passes bytes of one client at a time both ways; as text it
 * says `{"listening": port}`, `{"client": true}` or `{"client": false}`, or `{"gone": why}`. When the socket ends, so does the port.
 */

/** The most that goes to a client in a piece. */
const MOST_BYTES = 65_536
const schema = object({ port: plainNumber().integer('expected a whole number').test('port', 'allowed is from 1024 to 65535, or 0 for any that is free', n => n === 0 || (n !== undefined && n >= 1024 && n <= 65_535)).required() }).noUnknown()

const posed = new Map<string, PosedBoard>()

export default defineWebSocketHandler({
  upgrade: onlyOurs,
  async open(peer) {
    const asked = askedOf<{ readonly port: number }>(peer, schema, ['port'])
    if (asked === null) return
    const board = new PosedBoard({ came: () => { say(peer, { client: true }) }, heard: (bytes) => { peer.send(bytes) }, left: () => { say(peer, { client: false }) } })
    posed.set(peer.id, board)
    try {
      say(peer, { listening: await board.listen(asked.port) })
    } catch (error) {
      if (!(error instanceof WireError)) throw error
      end(peer, error.message)
    }
  },
  message(peer, message) { posed.get(peer.id)?.send(message.uint8Array().slice(0, MOST_BYTES)) },
  close(peer) {
    posed.get(peer.id)?.close()
    posed.delete(peer.id)
  },
})
