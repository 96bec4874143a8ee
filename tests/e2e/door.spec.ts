// The server's door, knocked on by all that is wrong: damaged requests are answered with 4xx and a sentence, never with
// 5xx, never with silence, and the server goes on. A fixed part: the same requests each time.
import { request as http } from 'node:http'
import { DOCUMENT_VERSION, newDocument } from '../../core/shot/document'
import { expect, test } from './stage'

let state = 20261127
const random = (below: number): number => {
  state = (Math.imul(state, 1664525) + 1013904223) >>> 0
  return Math.floor((state / 4294967296) * below)
}
const ROUTES: [string, string, (id: string) => unknown][] = [
  ['POST', '/api/shots', () => ({ name: 'a shot', document: newDocument() })],
  [
    'PATCH',
    '/api/shots/:id',
    () => ({
      version: DOCUMENT_VERSION,
      revision: 1,
      label: 'a',
      patch: [{ op: 'replace', path: '/frame/width', value: 100 }],
    }),
  ],
  ['POST', '/api/shots/:id/render', () => ({ frames: { first: 1, last: 1 } })],
  ['POST', '/api/shots/:id/send', () => ({ format: 'png8', frames: '1' })],
  [
    'POST',
    '/api/shots/:id/import',
    () => ({ files: [{ name: 'a.png', blob: '0'.repeat(64) }], as: 'plate', frame: 1 }),
  ],
  ['PUT', '/api/shots/:id/name', () => ({ name: 'another' })],
  ['POST', '/api/shots/:id/step/undo', () => ({ revision: 1 })],
  ['DELETE', '/api/removed/:id', () => ({})],
  ['POST', '/api/blobs', () => 'no picture'],
]
const ODD: unknown[] = [
  null,
  -1,
  1e308,
  NaN,
  '',
  '\0',
  '\ud800',
  [],
  {},
  'x'.repeat(5000),
  { constructor: 1 },
  Array(300).fill([]),
  true,
]

/** The value with a few places of it changed for something odd. */
function spoilt(value: unknown): unknown {
  if (random(6) === 0) return ODD[random(ODD.length)]
  if (Array.isArray(value)) return value.map(spoilt)
  if (typeof value === 'object' && value !== null) {
    const out = Object.fromEntries(Object.entries(value).map(([key, part]) => [key, spoilt(part)]))
    if (random(5) === 0) out[['extra', '__proto__', 'op', ''][random(4)]!] = ODD[random(ODD.length)]
    return out
  }
  return value
}
function damaged(text: string): Buffer {
  const bytes = Buffer.from(text)
  for (let k = random(5); k > 0 && bytes.length; k--) bytes[random(bytes.length)] = random(256)
  return random(5) === 0 ? bytes.subarray(0, random(bytes.length + 1)) : bytes
}
const knock = (address: string, method: string, path: string, body: Buffer, type: string): Promise<number> =>
  new Promise((resolve, reject) => {
    const headers = { 'content-type': type, 'content-length': body.length, origin: address }
    const asked = http(`${address}${path}`, { method, headers, timeout: 20000 }, answer => {
      answer.resume()
      answer.once('end', () => resolve(answer.statusCode ?? 0))
    })
    asked.once('timeout', () => asked.destroy(new Error(`${method} ${path}: no answer in 20 s`)))
    asked.once('error', reject)
    asked.end(body)
  })

test('600 damaged requests are refused, none with 5xx, and the shot is what it was', async ({ request, stage }) => {
  test.setTimeout(180000)
  const made = await request.post(`${stage.address}/api/shots`, { data: { name: 'door', document: newDocument() } })
  const { id } = (await made.json()) as { id: string }
  const counts: Record<string, number> = {}
  for (let round = 0; round < 600; round++) {
    const [method, route, body] = ROUTES[round % ROUTES.length]!
    const name = random(8) ? id : ['..%2f..', '%00', '%ff', 'nobody', 'x'.repeat(3000)][random(5)]!
    const text = JSON.stringify(random(3) ? spoilt(body(id)) : body(id)) ?? ''
    const sent = random(3) ? Buffer.from(text) : damaged(text)
    const type = random(10) ? 'application/json' : ['text/plain', '', 'application/json; charset=utf-16'][random(3)]!
    const path = route.replace(':id', name)
    const status = await knock(stage.address, method, path, sent, type)
    expect(status, `round ${round}: ${method} ${path} ${sent.toString('latin1').slice(0, 300)}`).toBeLessThan(500)
    counts[status >= 400 ? 'refused' : 'taken'] = (counts[status >= 400 ? 'refused' : 'taken'] ?? 0) + 1
  }
  expect(counts.refused).toBeGreaterThan(300)
  // What was valid by chance is a valid shot still
  const after = await request.get(`${stage.address}/api/shots/${id}`)
  expect(after.ok()).toBe(true)
  expect(((await after.json()) as { document: { version: number } }).document.version).toBe(DOCUMENT_VERSION)
})
