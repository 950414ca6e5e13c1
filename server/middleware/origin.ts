import { createError, defineEventHandler } from 'h3'

/**
 * Answers only to its own name: a page elsewhere that got this address under another host
 * name (DNS rebinding) or sends from another origin is refused.
 */
export default defineEventHandler((event) => {
  const { host = '', origin } = event.node.req.headers
  const allowed = process.env['MINDPATH_HOST'] ?? '127.0.0.1'
  const name = host.replace(/:\d+$/, '')
  const open = allowed === '0.0.0.0' || allowed === '::'
  if (!open && !['127.0.0.1', 'localhost', '[::1]', allowed].includes(name)) throw createError({ statusCode: 403, statusMessage: `this server does not answer to ${name}` })
  if (origin !== undefined && origin.replace(/^https?:\/\//, '') !== host) throw createError({ statusCode: 403, statusMessage: 'requests from other origins are refused' })
})
