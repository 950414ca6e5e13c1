import { defineWebSocketHandler } from 'h3'
import { object } from 'yup'
import { plainNumber, readDocument } from '../../../core/document'
import { WireError } from '../../../wires'
import { refusalOf } from '../../utils/origin'
import { PosedBoard } from '../../wires/posed'

/**
 * A page's simulated robot as a board, as a socket: `?port=…`. The server listens at that port of this machine and passes bytes of one client at a time both ways; as text it
 * says `{"listening": port}`, `{"client": true}` or `{"client": false}`, or `{"gone": why}`. When the socket ends, so does the port.
 */

/** The most that goes to a client in a piece. */
const MOST_BYTES = 65_536
const schema = object({ port: plainNumber().integer('expected a whole number').test('port', 'allowed is from 1024 to 65535, or 0 for any that is free', n => n === 0 || (n !== undefined && n >= 1024 && n <= 65_535)).required() }).noUnknown()

const posed = new Map<string, PosedBoard>()

export default defineWebSocketHandler({
  upgrade(request) {
    const refusal = refusalOf(request.headers.get('host') ?? '', request.headers.get('origin'))
    if (refusal !== null) throw new Response(refusal, { status: 403 })
  },
  async open(peer) {
    const say = (what: object): void => { peer.send(JSON.stringify(what)) }
    const asked = readDocument<{ readonly port: number }>(schema, { port: Number(new URL(peer.request.url ?? '', 'http://localhost').searchParams.get('port') ?? NaN) })
    if (!asked.ok) { say({ gone: asked.problems.map(p => `${p.path}: found ${p.value}; ${p.message}`).join('; ') }); peer.close(); return }
    const board = new PosedBoard({ came: () => { say({ client: true }) }, heard: (bytes) => { peer.send(bytes) }, left: () => { say({ client: false }) } })
    posed.set(peer.id, board)
    try {
      say({ listening: await board.listen(asked.value.port) })
    } catch (error) {
      if (!(error instanceof WireError)) throw error
      say({ gone: error.message })
      peer.close()
    }
  },
  message(peer, message) { posed.get(peer.id)?.send(message.uint8Array().slice(0, MOST_BYTES)) },
  close(peer) {
    posed.get(peer.id)?.close()
    posed.delete(peer.id)
  },
})
