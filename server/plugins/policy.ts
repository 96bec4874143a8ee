// Strict content security policy: our own scripts only; the framework's inline ones by their hashes.
import { createHash } from 'node:crypto'

export default defineNitroPlugin(nitro => {
  nitro.hooks.hook('render:response', response => {
    if (typeof response.body !== 'string') return
    const hashes = [...response.body.matchAll(/<script(?![^>]*\bsrc=)[^>]*>([\s\S]*?)<\/script>/g)].map(
      match => `'sha256-${createHash('sha256').update(match[1]!).digest('base64')}'`,
    )
    response.headers = {
      ...response.headers,
      'content-security-policy': `default-src 'self'; script-src 'self' 'wasm-unsafe-eval' ${[...new Set(hashes)].join(' ')}; worker-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' blob: data:; connect-src 'self'; font-src 'self' data:; object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'none'`,
    }
  })
})
