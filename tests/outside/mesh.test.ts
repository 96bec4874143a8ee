// Meshes of other formats: written by three.js's own exporters, made into glTF here, held against what went in and
// against the glTF validator.
import { describe, expect, it } from 'vitest'
import { BoxGeometry, Group, Mesh, MeshStandardMaterial, SphereGeometry } from 'three'
import { OBJExporter } from 'three/examples/jsm/exporters/OBJExporter.js'
import { PLYExporter } from 'three/examples/jsm/exporters/PLYExporter.js'
import { STLExporter } from 'three/examples/jsm/exporters/STLExporter.js'
import validator from 'gltf-validator'
import { readGltf } from '../../core/formats/gltf/gltf'
import { writePng } from '../../core/formats/png/png'
import { sceneAsGlb, type NamedFile } from '../../core/formats/mesh/mesh'
import { readMtl } from '../../core/formats/mesh/mtl'

// The exporter hands its result over a frame later, too, and Node has no frames
globalThis.requestAnimationFrame ??= () => 0

const text = (name: string, content: string): NamedFile => ({ name, bytes: new TextEncoder().encode(content) })
const things = (): Group => {
  const group = new Group()
  const box = new Mesh(new BoxGeometry(1, 2, 3), new MeshStandardMaterial({ name: 'slate' }))
  const ball = new Mesh(new SphereGeometry(0.5, 16, 8), new MeshStandardMaterial({ name: 'bottle' }))
  box.name = 'block'
  ball.name = 'float'
  ball.position.set(4, 1, 0)
  ball.updateMatrixWorld(true)
  return group.add(box, ball)
}
const read = async (files: NamedFile[]) => {
  const { bytes, notes, name } = await sceneAsGlb(files)
  const report = await validator.validateBytes(bytes)
  expect(report.issues.numErrors).toBe(0)
  return { scene: await readGltf(bytes), notes, name }
}
const bounds = (positions: Float32Array): number[] =>
  [0, 1, 2].flatMap(k => {
    const values = positions.filter((_, i) => i % 3 === k)
    return [Math.min(...values), Math.max(...values)].map(value => Number(value.toFixed(4)))
  })

describe('OBJ', () => {
  const mtl =
    'newmtl slate\nKd 0.5 0.5 0.5\nNs 96\nmap_Kd -s 2 2 1 pictures\\slate wall.png\n\nnewmtl bottle\nKd 0.1 0.8 0.2\nd 0.4\nNi 1.52\nKe 0 0.2 0\nPr 0.15\nPm 1\n'
  it('keeps its things, materials and picture', async () => {
    const picture = writePng({ width: 2, height: 2, channels: 3, maximum: 255, data: new Uint8Array(12).fill(90) })
    const { scene, notes, name } = await read([
      text('yard.obj', `mtllib yard.mtl\n${new OBJExporter().parse(things())}`),
      text('yard.mtl', mtl),
      { name: 'slate wall.png', bytes: picture },
    ])
    expect([name, notes]).toEqual(['yard.glb', []])
    expect(
      scene.objects.map(object => [object.name, object.parts.reduce((sum, part) => sum + part.indices.length / 3, 0)]),
    ).toEqual([
      ['block', 12],
      ['float', 16 * 8 * 2 - 32],
    ])
    expect(bounds(scene.objects[0]!.parts[0]!.positions)).toEqual([-0.5, 0.5, -1, 1, -1.5, 1.5])
    expect(bounds(scene.objects[1]!.parts[0]!.positions)).toEqual([3.5, 4.5, 0.5, 1.5, -0.5, 0.5])
    const [slate, bottle] = ['slate', 'bottle'].map(wanted =>
      scene.materials.find(material => material.name === wanted)!,
    )
    expect(slate!.baseTexture).toMatchObject({ width: 2, height: 2 })
    expect(slate!.roughness).toBeCloseTo((2 / 98) ** 0.25, 5)
    expect(slate!.baseColour[0]).toBeCloseTo(0.21404, 4)
    expect(bottle).toMatchObject({ alphaMode: 'blend', roughness: 0.15, metallic: 1, ior: 1.52 })
    expect(bottle!.baseColour[3]).toBeCloseTo(0.4, 5)
    expect(bottle!.emission[1]).toBeCloseTo(0.0331, 3)
  })
  it('without its materials is grey, and that is said; a picture that is missing too', async () => {
    const { scene, notes } = await read([text('yard.obj', `mtllib yard.mtl\n${new OBJExporter().parse(things())}`)])
    expect(scene.materials.every(material => Math.abs(material.baseColour[0] - 0.6) < 1e-6)).toBe(true)
    expect(notes.join()).toMatch(/\.mtl/)
    expect(
      (
        await read([text('yard.obj', `mtllib yard.mtl\n${new OBJExporter().parse(things())}`), text('yard.mtl', mtl)])
      ).notes.join(),
    ).toMatch(/slate wall\.png.*not among the files/)
  })
  it('materials are read by their lines, whatever else stands between them', () => {
    expect(
      readMtl(
        '# none\nKd 1 1 1\nnewmtl a b\nillum 2\nTr 0.25\nKd 1\nNs -5\nNi 90\nmap_Kd -bm 1 -clamp on deep/er/x.jpg\nnonsense',
      ),
    ).toEqual([
      {
        name: 'a b',
        colour: [1, 1, 1],
        opacity: 0.75,
        emission: [0, 0, 0],
        roughness: 1,
        metallic: 0,
        colourPicture: 'x.jpg',
      },
    ])
  })
})

describe('PLY and STL', () => {
  const box = new Mesh(new BoxGeometry(1, 2, 3))
  const ply = (binary: boolean): Uint8Array => {
    const out = new PLYExporter().parse(box, () => {}, { binary, littleEndian: true }) as string | ArrayBuffer
    return typeof out === 'string' ? new TextEncoder().encode(out) : new Uint8Array(out)
  }
  const stl = (binary: boolean): Uint8Array => {
    const out = new STLExporter().parse(box, { binary } as never) as unknown as string | DataView
    return typeof out === 'string'
      ? new TextEncoder().encode(out)
      : new Uint8Array(out.buffer, out.byteOffset, out.byteLength)
  }
  it.each([
    ['wall.ply', () => ply(false)],
    ['wall.ply', () => ply(true)],
    ['wall.stl', () => stl(false)],
    ['wall.stl', () => stl(true)],
  ] as const)('%s comes with all its faces', async (name, make) => {
    const { scene } = await read([{ name, bytes: make() }])
    expect(scene.objects).toHaveLength(1)
    expect(scene.objects[0]!.name).toBe('wall')
    expect(scene.objects[0]!.parts[0]!.indices.length).toBe(36)
    expect(bounds(scene.objects[0]!.parts[0]!.positions)).toEqual([-0.5, 0.5, -1, 1, -1.5, 1.5])
  })
  it.each([
    ['empty.obj', ''],
    ['words.obj', 'these are words\nand no faces'],
    ['empty.ply', ''],
    [
      'points.ply',
      'ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nend_header\n0 0 0\n',
    ],
    ['empty.stl', ''],
    ['nan.obj', 'v 0 0 nan\nv 1 0 0\nv 0 1 0\nf 1 2 3\n'],
  ])('%s is refused with a sentence', async (name, content) => {
    await expect(sceneAsGlb([text(name, content)])).rejects.toThrow(new RegExp(`“${name}”`))
  })
  it('cut off anywhere they are refused or read, never worse', async () => {
    for (const [name, whole] of [
      ['a.ply', ply(true)],
      ['a.ply', ply(false)],
      ['a.stl', stl(true)],
      ['a.stl', stl(false)],
      ['a.obj', new TextEncoder().encode(new OBJExporter().parse(things()))],
    ] as const) {
      for (let length = 1; length < whole.length; length += Math.ceil(whole.length / 23))
        await sceneAsGlb([{ name, bytes: whole.slice(0, length) }]).catch((error: Error) => {
          expect(error.name, `${name} cut at ${length}: ${error.message}`).toBe('BadInput')
        })
    }
  })
})

it('glTF in several files becomes one; nothing that is a scene is said so', async () => {
  const positions = new Uint8Array(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0).buffer)
  const json = {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [{ name: 'sail', mesh: 0 }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
    accessors: [{ bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] }],
    bufferViews: [{ buffer: 0, byteLength: 36 }],
    buffers: [{ uri: 'parts/sail.bin', byteLength: 36 }],
  }
  const { scene, name } = await read([text('sail.gltf', JSON.stringify(json)), { name: 'sail.bin', bytes: positions }])
  expect([name, scene.objects[0]!.name]).toEqual(['sail.glb', 'sail'])
  await expect(sceneAsGlb([text('sail.gltf', JSON.stringify(json))])).rejects.toThrow(/sail\.bin/)
  await expect(sceneAsGlb([text('letter.txt', 'hello')])).rejects.toThrow(/no scene among/)
})
