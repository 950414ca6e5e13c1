/** Why a request is not answered: it names another host, or comes from a page of another origin; null where it is. */
export function refusalOf(host: string, origin: string | null): string | null {
  const allowed = process.env['MINDPATH_HOST'] ?? '127.0.0.1'
  const name = host.replace(/:\d+$/, '')
  const open = allowed === '0.0.0.0' || allowed === '::'
  if (!open && !['127.0.0.1', 'localhost', '[::1]', allowed].includes(name)) return `this server does not answer to ${name}`
  return origin !== null && origin.replace(/^https?:\/\//, '') !== host ? 'requests from other origins are refused' : null
}
