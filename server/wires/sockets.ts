import type { Schema } from 'yup'
import { readDocument } from '../../core/document'
import { refusalOf } from '../utils/origin'

/** What the sockets of wires have in common. */

/** One page at the other end of a socket. */
interface Peer { readonly request: { readonly url: string }, send(what: string): unknown, close(): void }

/** Refuses a socket of a page elsewhere: it may open one to here without being asked for permission. */
export function onlyOurs(request: { readonly headers: Headers }): void {
  const refusal = refusalOf(request.headers.get('host') ?? '', request.headers.get('origin'))
  if (refusal !== null) throw new Response(refusal, { status: 403 })
}

export const say = (peer: Peer, what: object): void => { peer.send(JSON.stringify(what)) }

/** Says why there is nothing more to come, and closes it. */
export function end(peer: Peer, why: string): void {
  say(peer, { gone: why })
  peer.close()
}

/** What a socket's address asks for: its parameters, numbers where the schema has numbers. null where that is wrong, which is said. */
export function askedOf<T>(peer: Peer, schema: Schema<T>, numbers: readonly string[]): T | null {
  const given = [...new URL(peer.request.url, 'http://localhost').searchParams].map(([name, value]) => [name, numbers.includes(name) ? Number(value) : value] as const)
  const read = readDocument<T>(schema, Object.fromEntries(given))
  if (read.ok) return read.value
  end(peer, read.problems.map(p => `${p.path}: found ${p.value}; ${p.message}`).join('; '))
  return null
}
