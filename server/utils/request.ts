import { createError, readRawBody, type H3Event } from 'h3'
import type { Schema } from 'yup'
import { readDocument, type Problem } from '../../core/document'

/** Longest body that is taken, bytes. */
const MOST = 2_000_000

/** Reads and checks a request's body; a 400 that names path, value and what is allowed. */
export async function readBodyOf<T>(event: H3Event, schema: Schema<T>): Promise<T> {
  const type = event.node.req.headers['content-type'] ?? ''
  // A page of another origin can send a form, but not JSON, without being asked for permission.
  if (!type.startsWith('application/json')) throw createError({ statusCode: 415, statusMessage: 'expected application/json' })
  if (Number(event.node.req.headers['content-length'] ?? 0) > MOST) throw createError({ statusCode: 413, statusMessage: 'the body is too large' })
  const raw = await readRawBody(event, 'utf8') ?? ''
  if (raw.length > MOST) throw createError({ statusCode: 413, statusMessage: 'the body is too large' })
  let value: unknown
  try {
    value = JSON.parse(raw)
  } catch {
    throw createError({ statusCode: 400, statusMessage: 'the body is not JSON' })
  }
  const read = readDocument(schema, value)
  if (!read.ok) throw createError({ statusCode: 400, statusMessage: 'the body is not as expected', data: { problems: read.problems } })
  return read.value
}

/** The id in the path; a 404 when it cannot be one. */
export function idOf(event: H3Event): string {
  const id = event.context.params?.['id'] ?? ''
  if (!/^[0-9a-f-]{36}$/.test(id)) throw notFound()
  return id
}

export function notFound(what: 'project' | 'robot' = 'project') {
  return createError({ statusCode: 404, statusMessage: `there is no such ${what}` })
}

/** A robot document was sent that no robot can be built from. */
export function impossibleRobot(problems: readonly Problem[]) {
  return createError({ statusCode: 400, statusMessage: 'the robot cannot exist', data: { problems } })
}
