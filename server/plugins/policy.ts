import { createHash, randomBytes } from 'node:crypto'

/**
 * The page's content security policy: its own files only. Styles that are made while it runs
 * (Vuetify's theme, the editor's) carry a nonce; the shell's inline scripts are named by hash.
 */
export default defineNitroPlugin((nitro) => {
  if (import.meta.dev) return
  const nonces = new WeakMap<object, string>()
  nitro.hooks.hook('render:html', (html, { event }) => {
    const nonce = randomBytes(16).toString('base64')
    nonces.set(event, nonce)
    html.head.push(`<meta property="csp-nonce" nonce="${nonce}">`)
  })
  nitro.hooks.hook('render:response', (response, { event }) => {
    const body = typeof response.body === 'string' ? response.body : ''
    const hashes = [...body.matchAll(/<script(?![^>]*\bsrc=)[^>]*>([\s\S]*?)<\/script>/g)]
      .filter(m => !/type="application\/json"/.test(m[0]))
      .map(m => `'sha256-${createHash('sha256').update(m[1]!).digest('base64')}'`)
    response.headers = {
      ...response.headers,
      'content-security-policy': [
        "default-src 'self'", `script-src 'self' ${hashes.join(' ')}`, "worker-src 'self'",
        `style-src 'self' 'nonce-${nonces.get(event) ?? ''}'`, "style-src-attr 'unsafe-inline'", "img-src 'self' data: blob:", "font-src 'self' data:",
        "connect-src 'self'", "object-src 'none'", "base-uri 'none'", "form-action 'self'", "frame-ancestors 'none'",
      ].join('; '),
      'x-content-type-options': 'nosniff',
      'referrer-policy': 'no-referrer',
    }
  })
})
