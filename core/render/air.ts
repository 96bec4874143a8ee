// Media of a scene for the kernels (kernels/assembly/volume.ts).
import * as L from '../../kernels/assembly/layout'
import type { Kernels } from '../engine/memory'
import type { Material, Volume } from '../scene/scene'
import { inverseOf } from '../scene/vector'
import { placeGeometry } from './geometry'

/** Throws OutOfMemory. */
export function placeVolumes(kernels: Kernels, volumes: readonly Volume[], own: (pointer: number) => number): number {
  const stride = L.VOLUME_STRIDE / 4
  const words = new Int32Array(volumes.length * stride)
  const floats = new Float32Array(words.buffer)
  volumes.forEach((volume, i) => {
    const at = i * stride
    const put = (field: number, ...values: number[]): void => floats.set(values, at + (field >> 2))
    words[at + (L.VOLUME_KIND >> 2)] = volume.body ? L.VOLUME_MESH : volume.box ? 0 : L.VOLUME_SPACE
    if (volume.body) words[at + (L.VOLUME_SCENE >> 2)] = placeBody(kernels, volume.body, own)
    if (volume.box) {
      const m = inverseOf(volume.box)
      put(L.VOLUME_ROWS, ...[0, 1, 2].flatMap(row => [m[row]!, m[4 + row]!, m[8 + row]!, m[12 + row]!]))
    }
    put(L.VOLUME_DENSITY, Math.max(0, volume.density))
    put(L.VOLUME_COLOUR, ...volume.colour)
    put(L.VOLUME_FORWARD, Math.min(0.98, Math.max(-0.98, volume.forward)))
    put(L.VOLUME_NOISE, volume.noise)
    put(L.VOLUME_NOISE_SCALE, 1 / Math.max(1e-3, volume.noiseSize))
    words[at + (L.VOLUME_SEED >> 2)] = volume.seed
    put(L.VOLUME_BASE, volume.base)
    put(L.VOLUME_FALL, volume.halfHeight > 0 ? Math.LN2 / volume.halfHeight : 0)
  })
  return kernels.place(words)
}

/** A scene record of nothing but a body, for rays that ask where they cross it. */
function placeBody(
  kernels: Kernels,
  { parts, matrix }: NonNullable<Volume['body']>,
  own: (pointer: number) => number,
): number {
  const record = own(kernels.allocate(L.SCENE_SIZE))
  const bare: Material = {
    name: 'border',
    baseColour: [1, 1, 1, 1],
    metallic: 0,
    roughness: 1,
    emission: [0, 0, 0],
    alphaMode: 'opaque',
    alphaCutoff: 0.5,
    normalScale: 1,
    doubleSided: true,
  }
  kernels.words(record, L.SCENE_SIZE / 4).fill(0)
  placeGeometry(
    kernels,
    record,
    [bare],
    [
      {
        name: 'body',
        matrix,
        parts: parts.map(part => ({ positions: part.positions, indices: part.indices, material: 0 })),
        role: 'object',
        hidden: false,
        absent: false,
      },
    ],
    own,
  )
  return record
}
