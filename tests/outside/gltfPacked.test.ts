// glTF packed by outside encoders: meshes by Draco's own (npm draco3dgltf), pictures by Basis Universal's (npm
// ktx2-encoder), written into files by @gltf-transform.
import { Document, WebIO } from '@gltf-transform/core'
import { KHRDracoMeshCompression, KHRTextureBasisu } from '@gltf-transform/extensions'
// @ts-expect-error its package says no types
import draco from 'draco3dgltf'
import { encodeToKTX2 } from 'ktx2-encoder'
import { beforeAll, describe, expect, it, vi } from 'vitest'
import { BadInput } from '../../core/formats/errors'
import { isKtx2, ktx2Decoder } from '../../core/formats/gltf/codecs'
import { readGltf } from '../../core/formats/gltf/gltf'
import { useNode } from '../../host/engine'
import { ball } from '../scenes'

beforeAll(useNode)

async function file(change: (document: Document) => Promise<void> | void, io = new WebIO()): Promise<Uint8Array> {
  const document = new Document()
  const buffer = document.createBuffer()
  const mesh = ball([0.5, 0, -1], 1, 24)
  const accessor = (
    type: 'SCALAR' | 'VEC2' | 'VEC3',
    array: Float32Array | Uint32Array,
  ): ReturnType<Document['createAccessor']> =>
    document
      .createAccessor()
      .setType(type)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(buffer)
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', mesh.positions))
    .setAttribute('NORMAL', accessor('VEC3', mesh.normals!))
    .setAttribute('TEXCOORD_0', accessor('VEC2', mesh.uvs!))
    .setIndices(accessor('SCALAR', mesh.indices))
    .setMaterial(document.createMaterial('paint'))
  document
    .createScene()
    .addChild(document.createNode('ball').setMesh(document.createMesh('ball').addPrimitive(primitive)))
  await change(document)
  return io.writeBinary(document)
}
/** A damaged file gives a scene or an error that says it is bad, within memory's bounds. */
async function survives(bytes: Uint8Array, rounds: number, from: number): Promise<number> {
  let refused = 0
  let seed = 5
  const random = (): number => {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0
    return seed / 4294967296
  }
  for (let i = 0; i < rounds; i++) {
    const hurt = bytes.slice()
    for (let k = 0; k < 12; k++) hurt[from + Math.floor(random() * (hurt.length - from))] = Math.floor(random() * 256)
    try {
      await readGltf(hurt)
    } catch (error) {
      expect(error).toBeInstanceOf(BadInput)
      refused++
    }
  }
  return refused
}

describe('meshes packed by Draco', () => {
  let packed: Uint8Array
  beforeAll(async () => {
    const io = new WebIO()
      .registerExtensions([KHRDracoMeshCompression])
      .registerDependencies({ 'draco3d.encoder': await draco.createEncoderModule() })
    packed = await file(document => {
      document
        .createExtension(KHRDracoMeshCompression)
        .setRequired(true)
        .setEncoderOptions({
          method: KHRDracoMeshCompression.EncoderMethod.EDGEBREAKER,
          quantizationBits: { POSITION: 16, NORMAL: 12, TEX_COORD: 14 },
        })
    }, io)
  })
  it('are read as they were, to the steps they were packed in', async () => {
    const [plain, unpacked] = [await readGltf(await file(() => undefined)), await readGltf(packed)]
    const [a, b] = [plain, unpacked].map(scene => scene.objects[0]!.parts[0]!) as [
      ReturnType<typeof ball>,
      ReturnType<typeof ball>,
    ]
    expect(packed.length).toBeLessThan((await file(() => undefined)).length / 3)
    // Triangles at the poles have no area; the encoder leaves them out
    expect(b.indices.length / 3).toBe(a.indices.length / 3 - 24 * 2 * 2)
    // The encoder reorders: each corner of each triangle is looked for among all
    const key = (x: number, y: number, z: number): string => [x, y, z].map(value => Math.round(value * 500)).join(' ')
    const known = new Map<string, number>()
    for (let i = 0; i < a.positions.length; i += 3)
      for (const dx of [-1, 0, 1])
        for (const dy of [-1, 0, 1])
          for (const dz of [-1, 0, 1])
            known.set(
              key(a.positions[i]! + dx / 1000, a.positions[i + 1]! + dy / 1000, a.positions[i + 2]! + dz / 1000),
              i,
            )
    for (let i = 0; i < b.positions.length; i += 3) {
      const at = known.get(key(b.positions[i]!, b.positions[i + 1]!, b.positions[i + 2]!))
      expect(at).toBeDefined()
      for (let c = 0; c < 3; c++) {
        expect(Math.abs(b.positions[i + c]! - a.positions[at! + c]!)).toBeLessThan(1e-3)
        expect(Math.abs(b.normals![i + c]! - a.normals![at! + c]!)).toBeLessThan(4e-3)
      }
    }
    expect(unpacked.notes).toEqual([])
  })
  it('that are damaged are refused, and the next file is read all the same', async () => {
    expect(await survives(packed, 40, 2000)).toBeGreaterThan(5)
    expect((await readGltf(packed)).objects).toHaveLength(1)
  }, 60_000)
})

describe('pictures packed by Basis Universal', () => {
  // The encoder tells much
  beforeAll(() => {
    vi.spyOn(console, 'log').mockImplementation(() => undefined)
  })
  const side = 32
  const data = new Uint8Array(side * side * 4)
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) data.set([x * 8, y * 8, 128, 255 - x * 2], (y * side + x) * 4)
  const pack = (uastc: boolean): Promise<Uint8Array> =>
    encodeToKTX2(Uint8Array.of(0), {
      isUASTC: uastc,
      generateMipmap: true,
      enableDebug: false,
      qualityLevel: 255,
      imageDecoder: async () => ({ data: new Uint8Array(data), width: side, height: side }),
    })
  it.each([
    ['UASTC', true, 4],
    ['ETC1S', false, 14],
  ] as const)('as %s show the picture', async (_, uastc, off) => {
    const packed = await pack(uastc)
    expect(isKtx2(packed)).toBe(true)
    const bytes = await file(
      document => {
        document.createExtension(KHRTextureBasisu).setRequired(true)
        document
          .getRoot()
          .listMaterials()[0]!
          .setBaseColorTexture(
            document.createTexture('squares').setImage(new Uint8Array(packed)).setMimeType('image/ktx2'),
          )
      },
      new WebIO().registerExtensions([KHRTextureBasisu]),
    )
    const { materials, notes } = await readGltf(bytes)
    const picture = materials[0]!.baseTexture!
    expect(notes).toEqual([])
    expect([picture.width, picture.height]).toEqual([side, side])
    let sum = 0
    for (let i = 0; i < data.length; i++) sum += Math.abs(picture.pixels[i]! - data[i]!)
    expect(sum / data.length).toBeLessThan(off)
    expect(picture.pixels[0]).toBeLessThan(20)
    expect(picture.pixels[(side - 1) * 4]).toBeGreaterThan(220)
  })
  it('of a size that cannot be meant are refused before memory is taken; damaged ones are named', async () => {
    const packed = await pack(true)
    const unpack = await ktx2Decoder()
    const huge = packed.slice()
    new DataView(huge.buffer).setUint32(20, 1_000_000, true)
    expect(() => unpack(huge)).toThrow(/at most 32768/)
    let seed = 9
    let refused = 0
    for (let i = 0; i < 40; i++) {
      const hurt = packed.slice()
      for (let k = 0; k < 8; k++) {
        seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0
        hurt[12 + (seed % 240)] = seed >>> 24
      }
      try {
        unpack(hurt)
      } catch (error) {
        expect(error).toBeInstanceOf(BadInput)
        refused++
      }
    }
    expect(refused).toBeGreaterThan(10)
    expect(unpack(packed).width).toBe(side)
  })
})
