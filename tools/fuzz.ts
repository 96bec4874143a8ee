// Thousands of damaged files: each must be read or refused with a sentence, soon, and in bounded memory.
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { BadInput } from '../core/formats/errors'
import { emptyWindow, readExr, WRITTEN, writeExr, writeExrParts, type ExrImage } from '../core/formats/exr/exr'
import { floatsToHalves } from '../core/formats/exr/half'
import { readGltf } from '../core/formats/gltf/gltf'
import { useNode } from '../host/engine'
import { projectRoot } from '../host/root'

/** Longest that one file may take, and most that the process may hold. */
const SLOW = 10_000
const LARGE = 3 * 2 ** 30

interface Seed {
  kind: string
  bytes: Uint8Array
  read(bytes: Uint8Array): Promise<unknown>
}

function seeds(): Seed[] {
  const width = 37
  const height = 29
  const image = (compression: ExrImage['compression']): ExrImage => ({
    dataWindow: emptyWindow(width, height),
    displayWindow: emptyWindow(width, height),
    compression,
    attributes: [],
    channels: ['A', 'B', 'G', 'R'].map((name, c) => ({
      name,
      type: 'half' as const,
      linear: false,
      data: floatsToHalves(Float32Array.from({ length: width * height }, (_, i) => Math.sin(i * 0.1 + c) + 1)),
    })),
  })
  const exr = (kind: string, bytes: Uint8Array): Seed => ({
    kind,
    bytes,
    read: changed => Promise.resolve(readExr(changed)),
  })
  const folder = join(projectRoot(), 'demo/assets')
  return [
    ...WRITTEN.map(compression => exr(`exr ${compression}`, writeExr(image(compression)))),
    exr(
      'exr parts',
      writeExrParts(['zip', 'piz'].map((compression, i) => ({ name: `part${i}`, image: image(compression as 'zip') }))),
    ),
    ...readdirSync(folder)
      .filter(name => name.endsWith('.glb'))
      .map(name => ({
        kind: 'glb',
        bytes: new Uint8Array(readFileSync(join(folder, name))),
        read: (bytes: Uint8Array) => readGltf(bytes),
      })),
  ]
}

/**
 * minutes: how long it goes on; seed: where the changes begin. Throws at the first file that is neither read nor
 * refused.
 */
export async function fuzz(minutes: number, seed: number): Promise<void> {
  useNode()
  let state = seed >>> 0
  const random = (below: number): number => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return Math.floor((state / 4294967296) * below)
  }
  const all = seeds()
  const end = Date.now() + minutes * 60000
  const counts = { read: 0, refused: 0 }
  for (let round = 0; Date.now() < end; round++) {
    const { kind, bytes, read } = all[round % all.length]!
    const began = state
    let changed = bytes.slice()
    // The head is where sizes and places stand: half of the changes fall there
    for (let k = 1 + random(6); k > 0; k--) {
      const at = random(2) ? random(Math.min(changed.length, 2048)) : random(changed.length)
      changed[at] = random(3) === 0 ? 255 : random(2) ? changed[at]! ^ (1 << random(8)) : random(256)
    }
    if (random(4) === 0) changed = changed.slice(0, random(changed.length))
    const start = performance.now()
    try {
      await read(changed)
      counts.read++
    } catch (error) {
      if (!(error instanceof BadInput)) throw new Error(`${kind}, state ${began}: ${(error as Error).stack}`)
      counts.refused++
    }
    const took = performance.now() - start
    const held = process.memoryUsage().rss
    if (took > SLOW) throw new Error(`${kind}, state ${began}: took ${Math.round(took)} ms`)
    if (held > LARGE) throw new Error(`${kind}, state ${began}: the process holds ${Math.round(held / 2 ** 20)} MiB`)
  }
  console.log(
    `${counts.read + counts.refused} damaged files: ${counts.read} read, ${counts.refused} refused with a sentence`,
  )
}
