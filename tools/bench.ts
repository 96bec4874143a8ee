// Speed, as ratios against general-purpose references measured in the same run. Medians of several rounds, after warm-up.
import bunny from 'bunny'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { deflateSync, inflateSync } from 'node:zlib'
import * as THREE from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import { Evaluator } from '../core/build/evaluate'
import { displayCodes } from '../core/build/deliver'
import { Kernels } from '../core/engine/memory'
import { Pool } from '../core/engine/pool'
import { byteRestorer } from '../core/engine/unpack'
import { useRestorer } from '../core/formats/exr/bytes'
import { emptyWindow, readExr, writeExr, type ExrChannel } from '../core/formats/exr/exr'
import { floatsToHalves } from '../core/formats/exr/half'
import { compileScene } from '../core/render/compile'
import { identity } from '../core/scene/vector'
import type { ShotDocument } from '../core/shot/document'
import { kernelModule, startEngine, useNodeZlib } from '../host/engine'
import { projectRoot } from '../host/root'
import { BAND_ROWS, KERNEL_BLEND, KERNEL_CDL } from '../kernels/assembly/layout'
import { treatmentOf } from '../core/treatment/registry'
import { renderFigures } from './benchRender'
import { timeFigures, type Figure } from './benchTime'

function median(rounds: number, work: () => void): number {
  const times: number[] = []
  for (let i = 0; i < rounds; i++) { const start = performance.now(); work(); times.push(performance.now() - start) }
  return times.sort((a, b) => a - b)[Math.floor(rounds / 2)]!
}

/** Medians of pieces of work done in turn, so that a slow spell of the machine meets them all. The first round warms up and does not count. */
function medians<const Work extends readonly (() => void)[]>(rounds: number, ...works: Work): { [Index in keyof Work]: number } {
  const times = works.map((): number[] => [])
  for (let i = 0; i <= rounds; i++) works.forEach((work, at) => { const took = median(1, work); if (i > 0) times[at]!.push(took) })
  return times.map(list => list.sort((a, b) => a - b)[Math.floor(rounds / 2)]!) as { [Index in keyof Work]: number }
}

/** The bunny with every triangle split in four, until there are at least so many. */
function subdivided(least: number): { positions: Float32Array; indices: Uint32Array } {
  let points = bunny.positions.map(point => [...point]), cells = bunny.cells.map(cell => [...cell])
  while (cells.length < least) {
    const middle = new Map<string, number>(), next: number[][] = []
    const between = (a: number, b: number): number => {
      const key = a < b ? `${a}/${b}` : `${b}/${a}`
      let at = middle.get(key)
      if (at === undefined) { at = points.push(points[a]!.map((value, i) => (value + points[b]![i]!) / 2)) - 1; middle.set(key, at) }
      return at
    }
    for (const [a, b, c] of cells as [number, number, number][]) { const ab = between(a, b), bc = between(b, c), ca = between(c, a); next.push([a, ab, ca], [ab, b, bc], [ca, bc, c], [ab, bc, ca]) }
    cells = next
    points = [...points]
  }
  return { positions: Float32Array.from(points.flat()), indices: Uint32Array.from(cells.flat()) }
}

function rays(wanted: (name: string) => boolean): Figure[] {
  const names = ['rays.camera', 'rays.diffuse', 'rays.shadow', 'rays.occlusion'].filter(wanted)
  if (!names.length) return []
  // 3674 triangles, each split in four twice: 58 784
  const mesh = subdivided(50000)
  const pool = new Pool(new Kernels(kernelModule())), { kernels } = pool
  const compiled = compileScene(kernels, { objects: [{ name: 'bunny', matrix: identity(), parts: [{ ...mesh, material: 0 }], role: 'object', hidden: false, absent: false }], materials: [{ name: 'm', baseColour: [1, 1, 1, 1], metallic: 0, roughness: 1, emission: [0, 0, 0], alphaMode: 'opaque', alphaCutoff: 0.5, normalScale: 1, doubleSided: true }], lights: [], cameras: [], notes: [] })
  const geometry = new THREE.BufferGeometry()
  geometry.setAttribute('position', new THREE.BufferAttribute(mesh.positions, 3))
  geometry.setIndex(new THREE.BufferAttribute(mesh.indices.slice(), 1))
  geometry.computeBoundingBox()
  const reference = new MeshBVH(geometry)
  const box = geometry.boundingBox!, centre = box.getCenter(new THREE.Vector3()), size = box.getSize(new THREE.Vector3()).length()
  const side = 300, count = side * side
  const camera = new Float32Array(count * 8)
  const eye = centre.clone().add(new THREE.Vector3(0.3, 0.2, 1).multiplyScalar(size))
  for (let i = 0; i < count; i++) {
    const target = centre.clone().add(new THREE.Vector3((i % side / side - 0.5) * size * 0.8, (Math.floor(i / side) / side - 0.5) * size * 0.8, 0))
    const d = target.sub(eye).normalize()
    camera.set([eye.x, eye.y, eye.z, 0, d.x, d.y, d.z, 1e30], i * 8)
  }
  const out = kernels.allocate(count * 16)
  const cast = (data: Float32Array, any: boolean): Float32Array => {
    const pointer = kernels.place(data)
    kernels.exports.castRays(compiled.pointer, pointer, out, data.length / 8, any ? 1 : 0)
    kernels.dispose(pointer)
    return kernels.floats(out, data.length / 2).slice()
  }
  const hits = cast(camera, false)
  // Secondary rays start where camera rays hit
  let seed = 1
  const random = (): number => { seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0; return seed / 4294967296 }
  const secondary = (direction: (n: THREE.Vector3) => THREE.Vector3, far: number): Float32Array => {
    const list: number[] = []
    const triangles = new Int32Array(hits.buffer), a = new THREE.Vector3(), b = new THREE.Vector3(), c = new THREE.Vector3()
    for (let i = 0; i < count; i++) {
      const t = hits[i * 4]!
      if (t < 0) continue
      const f = triangles[i * 4 + 1]! * 3
      a.fromArray(mesh.positions, mesh.indices[f]! * 3); b.fromArray(mesh.positions, mesh.indices[f + 1]! * 3); c.fromArray(mesh.positions, mesh.indices[f + 2]! * 3)
      const n = b.sub(a).cross(c.sub(a)).normalize(), d = new THREE.Vector3().fromArray(camera, i * 8 + 4)
      if (n.dot(d) > 0) n.negate()
      const p = new THREE.Vector3().fromArray(camera, i * 8).addScaledVector(d, t).addScaledVector(n, size * 1e-4)
      const w = direction(n)
      list.push(p.x, p.y, p.z, 0, w.x, w.y, w.z, far)
    }
    return Float32Array.from(list)
  }
  const cosine = (n: THREE.Vector3): THREE.Vector3 => { const z = random() * 2 - 1, angle = random() * 2 * Math.PI, r = Math.sqrt(1 - z * z); return new THREE.Vector3(r * Math.cos(angle), r * Math.sin(angle), z).add(n).normalize() }
  const light = new THREE.Vector3(0.5, 1, 0.4).normalize()
  const kinds: Record<string, { data: Float32Array; any: boolean }> = {
    'rays.camera': { data: camera, any: false }, 'rays.diffuse': { data: secondary(cosine, 1e30), any: false }, 'rays.shadow': { data: secondary(() => light.clone(), 1e30), any: true }, 'rays.occlusion': { data: secondary(cosine, size * 0.1), any: true },
  }
  return names.map(name => {
    const { data, any } = kinds[name]!, pointer = kernels.place(data), ray = new THREE.Ray(), number = data.length / 8
    const ours = (): void => kernels.exports.castRays(compiled.pointer, pointer, out, number, any ? 1 : 0)
    // Their any-hit query is closest-hit-first with a far bound, as their documentation gives it for occlusion
    const theirs = (): void => { for (let i = 0; i < number; i++) { ray.origin.fromArray(data, i * 8); ray.direction.fromArray(data, i * 8 + 4); reference.raycastFirst(ray, THREE.DoubleSide, 0, data[i * 8 + 7]!) } }
    const [mine, other] = medians(7, ours, theirs)
    kernels.dispose(pointer)
    return { name, value: number / mine / 1000, unit: 'million rays/s', against: 'three-mesh-bvh 0.9.17', ratio: other / mine }
  })
}

function images(wanted: (name: string) => boolean): Figure[] {
  const width = 1920, height = 1080, pixels = width * height, out: Figure[] = []
  const pool = new Pool(new Kernels(kernelModule())), { kernels } = pool
  const a = kernels.allocate(pixels * 16), b = kernels.allocate(pixels * 16), c = kernels.allocate(pixels * 16)
  for (const pointer of [a, b]) { const data = kernels.floats(pointer, pixels * 4); for (let i = 0; i < data.length; i++) data[i] = (i * 7919 % 1000) / 1000 }
  const bands = Math.ceil(height / BAND_ROWS)
  const x = kernels.floats(a, pixels * 4).slice(), y = kernels.floats(b, pixels * 4).slice(), z = new Float32Array(pixels * 4)
  const copy = (): void => { z.set(x) }
  if (wanted('image.over')) {
    const plain = (): void => { for (let i = 0; i < z.length; i += 4) { const k = 1 - y[i + 3]!; z[i] = y[i]! + x[i]! * k; z[i + 1] = y[i + 1]! + x[i + 1]! * k; z[i + 2] = y[i + 2]! + x[i + 2]! * k; z[i + 3] = y[i + 3]! + x[i + 3]! * k } }
    const ours = (): void => pool.run(KERNEL_BLEND, bands, [width, height, a, b, c, 0, { float: 1 }, 0])
    const [mine, other, copied] = medians(15, ours, plain, copy)
    out.push({ name: 'image.over', value: mine, unit: 'ms', against: 'plain typed arrays', ratio: other / mine }, { name: 'image.over', value: mine, unit: 'ms', against: 'memory copy', ratio: copied / mine })
  }
  if (wanted('image.grade')) {
    const values = { slope_r: 1.2, slope_g: 1, slope_b: 0.9, offset_r: 0.01, offset_g: 0, offset_b: 0, power_r: 1.1, power_g: 0.9, power_b: 1.05, saturation: 0.8 }
    const plain = (): void => { for (let i = 0; i < z.length; i += 4) { const r = Math.max(0, x[i]! * 1.2 + 0.01) ** 1.1, g = Math.max(0, x[i + 1]!) ** 0.9, bl = Math.max(0, x[i + 2]! * 0.9) ** 1.05, l = r * 0.2126 + g * 0.7152 + bl * 0.0722; z[i] = l + (r - l) * 0.8; z[i + 1] = l + (g - l) * 0.8; z[i + 2] = l + (bl - l) * 0.8; z[i + 3] = x[i + 3]! } }
    kernels.floats(a, pixels * 4).forEach((_, i, data) => { if (i % 4 === 3) data[i] = 1 })
    const ours = (): void => pool.run(KERNEL_CDL, bands, [width, height, a, c, 0, { float: 1 }, 1, 0, ...treatmentOf('cdl').words(values, { width, height, shrink: 1 })])
    const [mine, other, copied] = medians(7, ours, plain, copy)
    out.push({ name: 'image.grade', value: mine, unit: 'ms', against: 'plain typed arrays', ratio: other / mine }, { name: 'image.grade', value: mine, unit: 'ms', against: 'memory copy', ratio: copied / mine })
  }
  return out
}

function exr(wanted: (name: string) => boolean): Figure[] {
  if (!wanted('exr.zip.read') && !wanted('exr.zip.write')) return []
  useNodeZlib()
  useRestorer(byteRestorer(new Kernels(kernelModule())))
  const width = 1920, height = 1080, count = width * height
  const channels = Array.from({ length: 8 }, (_, c): ExrChannel => ({ name: `C${c}`, type: 'half', linear: false, data: floatsToHalves(Float32Array.from({ length: count }, (_, i) => Math.sin(i * 0.001 * (c + 1)) + (i * 2654435761 % 1000) / 50000)) }))
  const image = { dataWindow: emptyWindow(width, height), displayWindow: emptyWindow(width, height), compression: 'zip' as const, channels, attributes: [] }
  const file = writeExr(image), raw = count * 8 * 2 / 1048576
  // The zlib alone on the same bytes in blocks of the same size
  const block = width * 8 * 2 * 16, bytes = new Uint8Array(count * 16)
  channels.forEach((channel, c) => bytes.set(new Uint8Array(channel.data.buffer), c * count * 2))
  const packed: Uint8Array[] = []
  const write = median(3, () => { packed.length = 0; for (let at = 0; at < bytes.length; at += block) packed.push(deflateSync(bytes.subarray(at, at + block), { level: 4 })) })
  const read = median(5, () => { for (const part of packed) inflateSync(part) })
  return [
    { name: 'exr.zip.read', value: raw / median(5, () => { readExr(file) }) * 1000, unit: 'MB/s', against: 'zlib alone', ratio: read / median(5, () => { readExr(file) }) },
    { name: 'exr.zip.write', value: raw / median(3, () => { writeExr(image) }) * 1000, unit: 'MB/s', against: 'zlib alone', ratio: write / median(3, () => { writeExr(image) }) },
  ].filter(figure => wanted(figure.name))
}

async function faders(wanted: (name: string) => boolean): Promise<Figure[]> {
  const names = ['build.fader.full', 'build.fader.half'].filter(wanted)
  if (!names.length) return []
  const folder = join(projectRoot(), 'demo/assets')
  const kept = (name: string): Uint8Array => { const parts = readdirSync(folder).filter(file => file === name || (file.startsWith(`${name}.`) && /\.\d{3}$/.test(file))).sort(); return Buffer.concat(parts.map(part => readFileSync(join(folder, part)))) }
  const [shot] = JSON.parse(readFileSync(join(folder, 'shots.json'), 'utf8')) as { document: ShotDocument }[]
  const engine = await startEngine()
  const evaluator = new Evaluator(engine.pool, async blob => kept(blob.slice(1)))
  const document = { ...shot!.document, frame: { width: 1280, height: 720 } }
  const out: Figure[] = []
  for (const name of names) {
    const shrink = name.endsWith('half') ? 2 as const : 1 as const
    const times: number[] = []
    for (let i = 0; i < 14; i++) {
      const moved = structuredClone(document)
      moved.build.desk.objects.bell = { ...moved.build.desk.objects.bell, reflection: 1 + i / 40 }
      const start = performance.now()
      displayCodes(engine.pool, await evaluator.evaluate({ document: moved, frame: 1, shrink, show: { kind: 'finish' } }), moved.view)
      if (i > 3) times.push(performance.now() - start)
    }
    const mine = times.sort((a, b) => a - b)[Math.floor(times.length / 2)]!, aim = shrink === 1 ? 100 : 33
    out.push({ name, value: mine, unit: 'ms', against: `aim of ${aim} ms`, ratio: aim / mine })
  }
  engine.stop()
  return out
}

/** more: figures that need what only the caller has (a browser). */
export async function bench(args: string[], more: (wanted: (name: string) => boolean) => Promise<Figure[]> = async () => []): Promise<void> {
  const start = args.find(arg => !arg.startsWith('-')) ?? '', json = args.includes('--json')
  const wanted = (name: string): boolean => name.startsWith(start)
  const print = (list: Figure[]): void => { for (const figure of list) console.log(json ? JSON.stringify(figure) : `${figure.name.padEnd(18)} ${figure.value.toFixed(2).padStart(9)} ${figure.unit.padEnd(15)} ${figure.ratio.toFixed(2).padStart(7)} x ${figure.against}`) }
  print(rays(wanted))
  print(images(wanted))
  print(exr(wanted))
  print(await renderFigures(wanted))
  print(await faders(wanted))
  print(await timeFigures(wanted))
  print(await more(wanted))
}
