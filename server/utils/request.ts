import { createError, defineEventHandler, type H3Event } from 'h3'
import type { Schema } from 'yup'
import { readDocument, type Problem } from '../../core/document'
import { SHELVED, type Shelved } from '../database/shelf'
import { StoreTrouble, troubleOf } from '../database/trouble'
import { dataFolder, useStore, type Store } from './store'

/** Longest body that is taken, bytes: a program and a robot with all the clips that it may have. */
export const MOST = 6_000_000

/** A body of which nothing came for this long is given up, milliseconds. */
const IDLE = 15_000

/** Answers a request from the store. What is wrong with the data folder or the disk is told in a sentence of its own. */
export function answer<T>(act: (event: H3Event, store: Store) => Promise<T>) {
  return defineEventHandler(async (event) => {
    try {
      return await act(event, await useStore())
    } catch (error) {
      const found = troubleOf(error, dataFolder())
      if (found === null) throw error
      throw told(found)
    }
  })
}

/** An error whose sentence may hold any sign; the status line of HTTP holds few. */
function told(trouble: StoreTrouble) {
  return createError({ statusCode: trouble.status, statusMessage: 'the data cannot be used', message: trouble.message, data: { trouble: trouble.kind } })
}

/** Reads and checks a request's body; a 400 that names path, value and what is allowed. */
export async function readBodyOf<T>(event: H3Event, schema: Schema<T>): Promise<T> {
  const type = event.node.req.headers['content-type'] ?? ''
  // A page of another origin can send a form, but not JSON, without being asked for permission.
  if (!type.startsWith('application/json')) throw createError({ statusCode: 415, statusMessage: 'expected application/json' })
  const raw = (await bytesOf(event, MOST)).toString('utf8')
  let value: unknown
  try {
    value = JSON.parse(raw)
  } catch {
    throw createError({ statusCode: 400, statusMessage: 'the body is not JSON' })
  }
  const read = readDocument<T>(schema, value)
  if (!read.ok) throw createError({ statusCode: 400, statusMessage: 'the body is not as expected', data: { problems: read.problems } })
  return read.value
}

/** A file that is sent as it is; a page of another origin cannot send this kind without being asked for permission. */
export function fileOf(event: H3Event, most: number): Promise<Buffer> {
  if (event.node.req.headers['content-type'] !== 'application/octet-stream') throw createError({ statusCode: 415, statusMessage: 'expected application/octet-stream' })
  return bytesOf(event, most)
}

/** The body, read as it comes and cut off at the limit with a 413, however long it says that it is. */
function bytesOf(event: H3Event, most: number): Promise<Buffer> {
  const { req } = event.node
  const tooLarge = () => {
    // What still comes is not read; the connection ends with the answer.
    event.node.res.setHeader('connection', 'close')
    return createError({ statusCode: 413, statusMessage: `the body is too large; allowed are ${most} bytes` })
  }
  if (Number(req.headers['content-length'] ?? 0) > most) return Promise.reject(tooLarge())
  return new Promise((resolve, reject) => {
    const parts: Buffer[] = []
    let size = 0
    req.setTimeout(IDLE, () => {
      event.node.res.setHeader('connection', 'close')
      reject(createError({ statusCode: 408, statusMessage: 'the body did not come' }))
    })
    req.on('data', (part: Buffer) => {
      size += part.length
      if (size > most) {
        req.pause()
        req.removeAllListeners('data')
        reject(tooLarge())
      } else parts.push(part)
    })
    req.once('close', () => req.setTimeout(0))
    req.once('end', () => resolve(Buffer.concat(parts)))
    req.once('error', () => reject(createError({ statusCode: 400, statusMessage: 'the body was cut off' })))
  })
}

/** The id in the path; a 404 when it cannot be one. */
export function idOf(event: H3Event): string {
  const id = event.context.params?.['id'] ?? ''
  if (!/^[0-9a-f-]{36}$/.test(id)) throw notFound()
  return id
}

/** The number of a revision in the path. */
export function revisionOf(event: H3Event): number {
  const text = event.context.params?.['number'] ?? ''
  if (!/^[1-9]\d{0,8}$/.test(text)) throw notFound('revision')
  return Number(text)
}

/** The kind of kept documents in the path; a 404 for any other word. */
export function kindOf(event: H3Event): Shelved {
  const kind = SHELVED.find(k => k === event.context.params?.['kind'])
  if (kind === undefined) throw createError({ statusCode: 404, statusMessage: `kept are ${SHELVED.join(', ')}` })
  return kind
}

export function notFound(what: 'project' | 'document' | 'revision' | 'run' | 'plan' | Shelved = 'project') {
  return createError({ statusCode: 404, statusMessage: `there is no such ${what}` })
}

/** A document was sent of which nothing can be made. */
export function impossible(kind: Shelved, problems: readonly Problem[]) {
  return createError({ statusCode: 400, statusMessage: `the ${kind} cannot exist`, data: { problems } })
}
