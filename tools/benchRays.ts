// Speed of the ray caster and of building its tree, one thread, against a library of the same kind and against Embree
// where it can be compiled.
import bunny from 'bunny'
import { execFileSync } from 'node:child_process'
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import * as THREE from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import { Kernels } from '../core/engine/memory'
import { compileScene } from '../core/render/compile'
import { identity } from '../core/scene/vector'
import { kernelModule } from '../host/engine'
import { projectRoot } from '../host/root'
import { NODE_STRIDE, PACKET_STRIDE, TRIANGLE_STRIDE, VERTEX_STRIDE } from '../kernels/assembly/layout'
import { middle, median, medians, type Figure } from './figures'

interface Mesh {
  positions: Float32Array
  indices: Uint32Array
}
const MESHES = [
  { name: '', least: 50_000 },
  { name: '.million', least: 900_000 },
] as const
const KINDS = ['camera', 'diffuse', 'shadow', 'occlusion'] as const
const ROUNDS = 5

/** The bunny with every triangle split in four, until there are at least so many. */
function subdivided(least: number): { positions: Float32Array; indices: Uint32Array } {
  let points = bunny.positions.map(point => [...point])
  let cells = bunny.cells.map(cell => [...cell])
  while (cells.length < least) {
    const middle = new Map<string, number>()
    const next: number[][] = []
    const between = (a: number, b: number): number => {
      const key = a < b ? `${a}/${b}` : `${b}/${a}`
      let at = middle.get(key)
      if (at === undefined) {
        at = points.push(points[a]!.map((value, i) => (value + points[b]![i]!) / 2)) - 1
        middle.set(key, at)
      }
      return at
    }
    for (const [a, b, c] of cells as [number, number, number][]) {
      const ab = between(a, b)
      const bc = between(b, c)
      const ca = between(c, a)
      next.push([a, ab, ca], [ab, b, bc], [ca, bc, c], [ab, bc, ca])
    }
    cells = next
    points = [...points]
  }
  return { positions: Float32Array.from(points.flat()), indices: Uint32Array.from(cells.flat()) }
}

/**
 * Rays of each kind over a mesh, 8 floats a ray (origin, near, direction, far): secondary ones start where camera rays
 * meet it.
 */
function raysOver(
  mesh: Mesh,
  cast: (data: Float32Array) => Float32Array,
): Record<(typeof KINDS)[number], { data: Float32Array; any: boolean }> {
  const box = new THREE.Box3().setFromArray(mesh.positions)
  const centre = box.getCenter(new THREE.Vector3())
  const size = box.getSize(new THREE.Vector3()).length()
  const side = 300
  const count = side * side
  const camera = new Float32Array(count * 8)
  const eye = centre.clone().add(new THREE.Vector3(0.3, 0.2, 1).multiplyScalar(size))
  for (let i = 0; i < count; i++) {
    const d = centre
      .clone()
      .add(
        new THREE.Vector3(((i % side) / side - 0.5) * size * 0.8, (Math.floor(i / side) / side - 0.5) * size * 0.8, 0),
      )
      .sub(eye)
      .normalize()
    camera.set([eye.x, eye.y, eye.z, 0, d.x, d.y, d.z, 1e30], i * 8)
  }
  const hits = cast(camera)
  const triangles = new Int32Array(hits.buffer)
  let seed = 1
  const random = (): number => {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0
    return seed / 4294967296
  }
  const secondary = (direction: (n: THREE.Vector3) => THREE.Vector3, far: number): Float32Array => {
    const list: number[] = []
    const a = new THREE.Vector3()
    const b = new THREE.Vector3()
    const c = new THREE.Vector3()
    for (let i = 0; i < count; i++) {
      const t = hits[i * 4]!
      if (t < 0) continue
      const f = triangles[i * 4 + 1]! * 3
      a.fromArray(mesh.positions, mesh.indices[f]! * 3)
      b.fromArray(mesh.positions, mesh.indices[f + 1]! * 3)
      c.fromArray(mesh.positions, mesh.indices[f + 2]! * 3)
      const n = b.sub(a).cross(c.sub(a)).normalize()
      const d = new THREE.Vector3().fromArray(camera, i * 8 + 4)
      if (n.dot(d) > 0) n.negate()
      const p = new THREE.Vector3()
        .fromArray(camera, i * 8)
        .addScaledVector(d, t)
        .addScaledVector(n, size * 1e-4)
      const w = direction(n)
      list.push(p.x, p.y, p.z, 0, w.x, w.y, w.z, far)
    }
    return Float32Array.from(list)
  }
  const cosine = (n: THREE.Vector3): THREE.Vector3 => {
    const z = random() * 2 - 1
    const angle = random() * 2 * Math.PI
    const r = Math.sqrt(1 - z * z)
    return new THREE.Vector3(r * Math.cos(angle), r * Math.sin(angle), z).add(n).normalize()
  }
  const light = new THREE.Vector3(0.5, 1, 0.4).normalize()
  return {
    camera: { data: camera, any: false },
    diffuse: { data: secondary(cosine, 1e30), any: false },
    shadow: { data: secondary(() => light.clone(), 1e30), any: true },
    occlusion: { data: secondary(cosine, size * 0.1), any: true },
  }
}

/** Compiles the yardstick into `folder`; undefined, and why is said, where it cannot be. */
function embreeIn(folder: string): string | undefined {
  if (!existsSync('/usr/include/embree3/rtcore.h')) {
    console.error('No figures against Embree: libembree-dev and g++ are not installed.')
    return undefined
  }
  try {
    execFileSync(
      'g++',
      ['-O3', '-march=native', join(projectRoot(), 'tools/embree.cpp'), '-o', join(folder, 'embree'), '-lembree3'],
      { stdio: 'pipe' },
    )
    return join(folder, 'embree')
  } catch (error) {
    console.error(`No figures against Embree: ${(error as Error).message.split('\n')[0]}`)
    return undefined
  }
}
interface Theirs {
  build: number
  bytes: number
  cast: number
  hits: number
}

export function rayFigures(wanted: (name: string) => boolean): Figure[] {
  const out: Figure[] = []
  const put = (name: string, figure: Omit<Figure, 'name'>): void => {
    if (wanted(name)) out.push({ name, ...figure })
  }
  const folder = mkdtempSync(join(tmpdir(), 'northmist-'))
  try {
    const wantsEmbree = MESHES.some(({ name }) =>
      [...KINDS.map(kind => `rays.embree.${kind}${name}`), `hierarchy.build${name}`].some(wanted),
    )
    const embree = wantsEmbree ? embreeIn(folder) : undefined
    for (const { name, least } of MESHES) {
      const kinds = KINDS.filter(kind => wanted(`rays.${kind}${name}`) || wanted(`rays.embree.${kind}${name}`))
      const builds = wanted(`hierarchy.build${name}`) || wanted(`hierarchy.memory${name}`)
      if (!kinds.length && !builds) continue
      const mesh = subdivided(least)
      const kernels = new Kernels(kernelModule())
      const compiled = compileScene(kernels, {
        objects: [
          {
            name: 'bunny',
            matrix: identity(),
            parts: [{ ...mesh, material: 0 }],
            role: 'object',
            hidden: false,
            absent: false,
          },
        ],
        materials: [
          {
            name: 'm',
            baseColour: [1, 1, 1, 1],
            metallic: 0,
            roughness: 1,
            emission: [0, 0, 0],
            alphaMode: 'opaque',
            alphaCutoff: 0.5,
            normalScale: 1,
            doubleSided: true,
          },
        ],
        lights: [],
        cameras: [],
        notes: [],
      })
      const results = kernels.allocate(90_000 * 16)
      const cast = (data: Float32Array): Float32Array => {
        const pointer = kernels.place(data)
        kernels.exports.castRays(compiled.pointer, pointer, results, data.length / 8, 0)
        kernels.dispose(pointer)
        return kernels.floats(results, data.length / 2).slice()
      }
      const over = raysOver(mesh, cast)
      if (embree) {
        writeFileSync(join(folder, 'positions'), mesh.positions)
        writeFileSync(join(folder, 'indices'), mesh.indices)
      }
      const theirs = (data: Float32Array, any: boolean): Theirs => {
        writeFileSync(join(folder, 'rays'), data)
        return JSON.parse(
          execFileSync(
            embree!,
            [join(folder, 'positions'), join(folder, 'indices'), join(folder, 'rays'), any ? '1' : '0', String(ROUNDS)],
            { encoding: 'utf8' },
          ),
        ) as Theirs
      }
      if (kinds.length) {
        const geometry = new THREE.BufferGeometry()
        geometry.setAttribute('position', new THREE.BufferAttribute(mesh.positions, 3))
        geometry.setIndex(new THREE.BufferAttribute(mesh.indices.slice(), 1))
        const script = new MeshBVH(geometry)
        for (const kind of kinds) {
          const { data, any } = over[kind]
          const pointer = kernels.place(data)
          const ray = new THREE.Ray()
          const number = data.length / 8
          const ours = (): void => kernels.exports.castRays(compiled.pointer, pointer, results, number, any ? 1 : 0)
          // Their any-hit query is closest-hit-first with a far bound, as their documentation gives it for occlusion
          if (wanted(`rays.${kind}${name}`)) {
            const [mine, other] = medians(ROUNDS, ours, () => {
              for (let i = 0; i < number; i++) {
                ray.origin.fromArray(data, i * 8)
                ray.direction.fromArray(data, i * 8 + 4)
                script.raycastFirst(ray, THREE.DoubleSide, 0, data[i * 8 + 7]!)
              }
            })
            put(`rays.${kind}${name}`, {
              value: number / mine / 1000,
              unit: 'million rays/s',
              against: 'three-mesh-bvh 0.9.17 (11 asked for)',
              ratio: other / mine,
            })
          }
          if (embree && wanted(`rays.embree.${kind}${name}`)) {
            const before = median(ROUNDS, ours)
            const other = theirs(data, any).cast * 1000
            const mine = middle([before, median(ROUNDS, ours), median(ROUNDS, ours)])
            put(`rays.embree.${kind}${name}`, {
              value: number / mine / 1000,
              unit: 'million rays/s',
              against: 'Embree 3, one thread (0.7 asked for)',
              ratio: other / mine,
            })
          }
          kernels.dispose(pointer)
        }
      }
      if (builds) {
        const { triangles } = compiled
        const records = kernels.allocate(triangles * TRIANGLE_STRIDE)
        const vertices = kernels.allocate((mesh.positions.length / 3) * VERTEX_STRIDE)
        const flags = kernels.allocate(triangles * 4)
        const nodes = kernels.allocate(triangles * NODE_STRIDE)
        const packets = kernels.allocate(triangles * PACKET_STRIDE)
        const temporary = kernels.allocate(65536 + triangles * 36)
        const words = kernels.words(records, triangles * 6)
        const floats = kernels.floats(vertices, mesh.positions.length * 4)
        for (let i = 0; i < triangles; i++)
          words.set([mesh.indices[i * 3]!, mesh.indices[i * 3 + 1]!, mesh.indices[i * 3 + 2]!, 0, 0, -1], i * 6)
        for (let i = 0; i < mesh.positions.length / 3; i++)
          floats.set(mesh.positions.subarray(i * 3, i * 3 + 3), i * 12)
        kernels.words(flags, triangles).fill(0)
        const build = (): void => {
          kernels.exports.beginHierarchy(nodes, packets)
          kernels.exports.buildTriangles(0, triangles, records, vertices, flags, temporary)
        }
        const mine = median(ROUNDS, build)
        const bytes =
          (kernels.exports.builtNodes() * NODE_STRIDE + kernels.exports.builtPackets() * PACKET_STRIDE) / triangles +
          TRIANGLE_STRIDE +
          (VERTEX_STRIDE * mesh.positions.length) / 3 / triangles
        if (embree) {
          const other = theirs(over.camera.data, false)
          put(`hierarchy.build${name}`, {
            value: mine,
            unit: 'ms',
            against: `Embree 3, one thread (0.67 asked for; it holds ${(other.bytes / triangles).toFixed(0)} bytes/triangle)`,
            ratio: (other.build * 1000) / mine,
          })
        }
        put(`hierarchy.memory${name}`, {
          value: bytes,
          unit: 'bytes/triangle',
          against: '130 bytes',
          ratio: 130 / bytes,
        })
      }
      compiled.dispose()
    }
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
  return out
}
