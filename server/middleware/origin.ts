import { createError, defineEventHandler } from 'h3'
import { refusalOf } from '../utils/origin'

/**
 * Answers only to its own name: a page elsewhere that got this address under another host
 * name (DNS rebinding) or sends from another origin is refused.
 */
export default defineEventHandler((event) => {
  const { host = '', origin } = event.node.req.headers
  const refusal = refusalOf(host, origin ?? null)
  if (refusal !== null) throw createError({ statusCode: 403, statusMessage: refusal })
})
