// Data passes against closed forms: places, texture places, facing, mean depth, motion of camera, things and shapes;
// coverage by whole and by ranks.
// The projections in the tests are the pinhole's own (a place x to the right at a distance z is seen f x / z beside the
// middle).
import { describe, expect, it } from 'vitest'
import { NO_DEPTH } from '../../core/render/passes'
import { pixelLayout } from '../../core/render/pixelLayout'
import type { RenderedPasses } from '../../core/render/planes'
import { coverageOf, openPassFile, readPassFile, StillPacked, unpacking } from '../../core/render/openpasses'
import type { OtherFrames } from '../../core/render/geometry'
import { passesToExr } from '../../core/render/passfile'
import type { Scene } from '../../core/scene/scene'
import { compose, rotationFromDegrees, type Matrix4, type Vector3 } from '../../core/scene/vector'
import { readExr, readExrParts } from '../../core/formats/exr/exr'
import { ball, constantEnvironment, lookAt, material, object, quad, renderScene, scene } from '../scenes'

const SIZE = 32
const FOCAL = 50
const F = (FOCAL / 36) * SIZE
const DATA = [
  'alpha',
  'depth',
  'depth_mean',
  'position',
  'uv',
  'normal',
  'normal_camera',
  'facing',
  'motion_forward',
  'motion_back',
  'rest',
  'crypto_object',
  'crypto_asset',
  'object_id',
]
const camera = lookAt([0, 0, 5], [0, 0, 0], FOCAL)
const wall = (z = 0, half = 2) => quad([-half, -half, z], [half, -half, z], [half, half, z], [-half, half, z])
const moved = (x: number, y: number, z: number): Matrix4 => compose([x, y, z], [0, 0, 0, 1], [1, 1, 1])
const render = (
  description: Scene,
  change: Parameters<typeof renderScene>[1] = { camera },
  others?: OtherFrames,
): Required<RenderedPasses> =>
  renderScene(description, { width: SIZE, height: SIZE, samples: 16, passes: DATA, ...change }, others)
const at = (plane: Float32Array, channels: number, x: number, y: number): number[] => [
  ...plane.subarray((y * SIZE + x) * channels, (y * SIZE + x + 1) * channels),
]
/** Where the wall at z = 0 is met by the ray through a pixel's middle. */
const met = (x: number, y: number, distance = 5): [number, number] => [
  ((x + 0.5 - SIZE / 2) / F) * distance,
  (-(y + 0.5 - SIZE / 2) / F) * distance,
]

describe('a wall that faces the camera', () => {
  const passes = render(scene([object('wall', wall())]))
  it('gives its places, texture places, normals, facing and depth at the middle of each pixel', () => {
    for (const [x, y] of [
      [16, 16],
      [4, 9],
      [27, 20],
    ] as const) {
      const [u, v] = met(x, y)
      const place = at(passes.position, 3, x, y)
      expect(place[0]).toBeCloseTo(u, 4)
      expect(place[1]).toBeCloseTo(v, 4)
      expect(place[2]).toBeCloseTo(0, 5)
      // u to the right, v downwards over a side of four metres
      const [tu, tv] = at(passes.uv, 2, x, y)
      expect(tu).toBeCloseTo((u + 2) / 4, 4)
      expect(tv).toBeCloseTo((2 - v) / 4, 4)
      expect(passes.depth[y * SIZE + x]).toBeCloseTo(5, 4)
      expect(passes.depthMean[y * SIZE + x]).toBeCloseTo(5, 4)
      expect(at(passes.normal, 3, x, y).map(value => Math.round(value * 1e4) / 1e4 + 0)).toEqual([0, 0, 1])
    }
    // Facing is the cosine between the normal and the way to the camera, mean over the filter's width
    const [u, v] = met(4, 9)
    expect(passes.facing[9 * SIZE + 4]).toBeCloseTo(5 / Math.hypot(5, u, v), 2)
  })
  it('is the same to a turned camera by the camera’s own axes', () => {
    const turned = rotationFromDegrees(37, -12, 8)
    const away: Scene = scene([object('wall', wall(), { matrix: turned })])
    const eye: Vector3 = [turned[8]! * 5, turned[9]! * 5, turned[10]! * 5]
    const m = [...turned] as Matrix4
    m[12] = eye[0]
    m[13] = eye[1]
    m[14] = eye[2]
    const seen = render(away, { camera: { ...camera, matrix: m } })
    expect(at(seen.normalCamera, 3, 16, 16).map(value => Math.round(value * 1e3) / 1e3 + 0)).toEqual([0, 0, 1])
    expect(at(seen.normal, 3, 16, 16)[2]).toBeCloseTo(turned[10]!, 3)
  })
})

describe('depth by coverage', () => {
  it('is the mean over what covers a pixel, where depth itself has one thing', () => {
    // A strip from the middle to the right at 3 m before a wall at 5 m: the pixel column on its edge has both
    const strip = quad([0, -2, 2], [2, -2, 2], [2, 2, 2], [0, 2, 2])
    const passes = render(scene([object('strip', strip), object('wall', wall())]), { camera, samples: 1024 })
    const edge = passes.depthMean[16 * SIZE + 16]!
    expect(passes.depth[16 * SIZE + 16]).toBeCloseTo(3, 4)
    expect(edge).toBeGreaterThan(3.05)
    expect(edge).toBeLessThan(4)
    // Mean of the two columns beside the edge: half of each by symmetry of the filter
    expect((edge + passes.depthMean[16 * SIZE + 15]!) / 2).toBeCloseTo(4, 1)
    expect(passes.depthMean[16 * SIZE + 24]).toBeCloseTo(3, 4)
  })
  it('is far where there is nothing', () => {
    const passes = render(scene([object('small', wall(0, 0.2))]))
    expect(passes.depthMean[0]).toBeCloseTo(NO_DEPTH, -5)
    expect(at(passes.position, 3, 0, 0)).toEqual([0, 0, 0])
  })
})

describe('facing of a ball', () => {
  it('falls off by the cosine of the angle between normal and view', () => {
    const far = lookAt([0, 0, 40], [0, 0, 0], 600)
    const f = (600 / 36) * SIZE
    const passes = render(scene([object('ball', ball([0, 0, 0], 1, 200))]), { camera: far, samples: 256 })
    for (const x of [16, 19, 22, 25]) {
      const across = ((x + 0.5 - 16) / f) * 39.2
      expect(Math.abs(passes.facing[16 * SIZE + x]! - Math.sqrt(1 - across * across)), `column ${x}`).toBeLessThan(0.03)
    }
  })
})

describe('motion, in pixels a frame', () => {
  const still = scene([object('wall', wall())])
  it('of the camera alone: a step to the right moves everything left by f d / z; nothing moves when it stands', () => {
    const step = (d: number) => ({
      ...camera,
      matrix: [...camera.matrix.slice(0, 12), d, 0, 5, 1] as unknown as Matrix4,
    })
    const passes = render(still, { camera, moving: { previous: step(-0.1), next: step(0.2) } })
    for (const [x, y] of [
      [16, 16],
      [5, 20],
    ] as const) {
      const forward = at(passes.motionForward, 2, x, y)
      const back = at(passes.motionBack, 2, x, y)
      expect(forward[0]).toBeCloseTo((-F * 0.2) / 5, 4)
      expect(back[0]).toBeCloseTo((F * 0.1) / 5, 4)
      expect(Math.abs(forward[1]!) + Math.abs(back[1]!)).toBeLessThan(1e-4)
    }
    const resting = render(still, { camera, moving: { previous: camera, next: camera } })
    expect(Math.max(...resting.motionForward.map(Math.abs))).toBeLessThan(1e-4)
  })
  it('of a zoom: away from the middle by the ratio of the focal lengths', () => {
    const passes = render(still, { camera, moving: { previous: camera, next: { ...camera, focalLength: 55 } } })
    expect(at(passes.motionForward, 2, 24, 6)[0]).toBeCloseTo((24.5 - 16) * 0.1, 4)
    expect(at(passes.motionForward, 2, 24, 6)[1]).toBeCloseTo((6.5 - 16) * 0.1, 4)
  })
  it('of things that go, turn and change shape', () => {
    const there = (matrix: Matrix4, part = wall()): Scene => scene([object('wall', part, { matrix })])
    const going = render(
      still,
      { camera, moving: { previous: camera, next: camera } },
      { previous: there(moved(0, -0.3, 0)), next: there(moved(0.5, 0, 1)) },
    )
    const [u, v] = met(20, 11)
    const forward = at(going.motionForward, 2, 20, 11)
    expect(forward[0]).toBeCloseTo(((u + 0.5) / 4) * F - (u / 5) * F, 4)
    expect(forward[1]).toBeCloseTo(-((v / 4) * F - (v / 5) * F), 4)
    // Up is smaller in pixels: a thing that was lower was further down
    expect(at(going.motionBack, 2, 20, 11)[1]).toBeCloseTo((0.3 / 5) * F, 4)
    const turning = render(
      still,
      { camera, moving: { previous: camera, next: camera } },
      { previous: still, next: there(rotationFromDegrees(0, 0, 10)) },
    )
    const c = Math.cos(Math.PI / 18)
    const s = Math.sin(Math.PI / 18)
    const turnedU = u * c - v * s
    const turnedV = u * s + v * c
    const way = at(turning.motionForward, 2, 20, 11)
    const sign = Math.abs(way[0]! - ((turnedU - u) / 5) * F) < 1e-3 ? 1 : -1
    const [ru, rv] = sign > 0 ? [turnedU, turnedV] : [u * c + v * s, -u * s + v * c]
    expect(way[0]).toBeCloseTo(((ru - u) / 5) * F, 3)
    expect(way[1]).toBeCloseTo((-(rv - v) / 5) * F, 3)
    // A wall stretched to twice its width while its names and corners stay
    const stretched = render(
      still,
      { camera, moving: { previous: camera, next: camera } },
      { previous: still, next: there(moved(0, 0, 0), quad([-4, -2, 0], [4, -2, 0], [4, 2, 0], [-4, 2, 0])) },
    )
    expect(at(stretched.motionForward, 2, 20, 11)[0]).toBeCloseTo((u / 5) * F, 4)
  })
})

describe('the place on the thing', () => {
  it('is the place itself where nothing is told of the first frame', () => {
    const passes = render(scene([object('wall', wall())]))
    for (let i = 0; i < SIZE * SIZE * 3; i++) expect(passes.rest[i]).toBeCloseTo(passes.position[i]!, 5)
  })
  it('stays on a wall that was carried off and drawn out, whatever the camera', () => {
    const now = scene([object('wall', wall(), { matrix: moved(0.4, -0.2, 0) })])
    // Twice as wide and a metre nearer on the first frame
    const first = scene([
      object('wall', quad([-4, -2, 0], [4, -2, 0], [4, 2, 0], [-4, 2, 0]), { matrix: moved(0, 0, 1) }),
    ])
    const passes = render(now, { camera }, { first })
    const [u, v] = met(20, 11)
    expect(at(passes.rest, 3, 20, 11).map(value => Number(value.toFixed(3)))).toEqual(
      [(u - 0.4) * 2, v + 0.2, 1].map(value => Number(value.toFixed(3))),
    )
    // And is no other thing's
    expect(at(passes.position, 3, 20, 11)[0]).toBeCloseTo(u, 4)
  })
  it('goes with each of many places of one mesh', () => {
    const mesh = ball([0, 0, 0], 0.5, 64)
    const crowd = (drop: number): Scene =>
      scene([0, 1, 2].map(i => object(`ball ${i}`, mesh, { matrix: moved(i * 1.2 - 1.2, drop * (i + 1), 0) })))
    const passes = render(crowd(-0.2), { camera }, { first: crowd(0.3) })
    let seen = 0
    for (let i = 0; i < SIZE * SIZE; i++) {
      const number = passes.objectId[i]!
      if (!number || passes.depth[i] === NO_DEPTH) continue
      seen++
      const [x, y, z] = passes.position.subarray(i * 3, i * 3 + 3)
      expect(passes.rest[i * 3]).toBeCloseTo(x!, 4)
      expect(passes.rest[i * 3 + 1]).toBeCloseTo(y! + 0.5 * number, 4)
      expect(passes.rest[i * 3 + 2]).toBeCloseTo(z!, 4)
    }
    expect(seen).toBeGreaterThan(50)
  })
})

describe('only what is needed', () => {
  it('passes without light keep no room for it, and have no light', () => {
    const data = pixelLayout(DATA)
    const all = pixelLayout([...DATA, 'beauty', 'shadow', 'occlusion'])
    expect(data.light).toBe(0)
    expect(all.stride - data.stride).toBe(18 + 7 + 2)
    const passes = renderScene(scene([object('wall', wall())], { environment: constantEnvironment() }), {
      camera,
      passes: ['depth'],
    }) as RenderedPasses
    expect(passes.light).toBeUndefined()
    expect(passes.normal).toBeUndefined()
    expect(passes.coverage.crypto_object).toBeUndefined()
    expect(passes.depth[0]).toBeCloseTo(5, 4)
  })
  it('a pass has the same values alone as among all others', () => {
    const description = scene([object('ball', ball([0.4, 0.2, 0.5], 1)), object('wall', wall())])
    const together = render(description)
    const alone = render(description, { camera, passes: ['facing'] })
    expect([...alone.facing]).toEqual([...together.facing])
  })
})

describe('coverage', () => {
  const parts = [0, 1, 2, 3, 4, 5, 6, 7, 8].map(i =>
    object(
      `slat ${i}`,
      quad(
        [-2 + i * 0.02, -2, 0.1],
        [-2 + (i + 1) * 0.02, -2, 0.1],
        [-2 + (i + 1) * 0.02, 2, 0.1],
        [-2 + i * 0.02, 2, 0.1],
      ),
      { asset: i < 5 ? 'left crate' : 'right crate' },
    ),
  )
  it('of wholes adds up what belongs together, and lasts through a file', async () => {
    const passes = render(scene(parts), {
      camera: lookAt([-1.91, 0, 5], [-1.91, 0, 0], 400),
      passes: ['alpha', 'crypto_asset', 'crypto_object'],
      samples: 64,
    })
    const file = await readPassFile(
      passesToExr(passes, {
        passes: ['alpha', 'crypto_asset', 'crypto_object'],
        objectNames: parts.map(part => part.name),
        materialNames: ['white'],
        assetNames: ['left crate', 'right crate'],
      }),
    )
    expect([...file.assetNames].sort()).toEqual(['left crate', 'right crate'])
    const middle = 16 * SIZE
    for (let x = 0; x < SIZE; x++) {
      let whole = 0
      for (let rank = 0; rank < 6; rank++) whole += passes.coverage.crypto_asset!.weight[(middle + x) * 6 + rank]!
      expect(whole).toBeCloseTo(passes.alpha[middle + x]!, 5)
    }
    // Left of slat 5's edge (1.1 cm right of the middle) all is the left crate's
    expect(passes.coverage.crypto_asset!.weight[(middle + 10) * 6]).toBeCloseTo(1, 5)
  })
  it.each([1, 3, 6, 8])('keeps the %i largest shares of a pixel when asked for as many', ranks => {
    const passes = render(scene(parts), {
      camera: lookAt([-1.91, 0, 12], [-1.91, 0, 0], 24),
      passes: ['alpha', 'crypto_object'],
      samples: 256,
      cryptoRanks: ranks,
    })
    const cryptoObject = passes.coverage.crypto_object!
    expect(cryptoObject.ranks).toBe(ranks)
    const pixel = 16 * SIZE + 16
    const shares = [...cryptoObject.weight.subarray(pixel * ranks, (pixel + 1) * ranks)]
    expect(shares.every((share, i) => i === 0 || share <= shares[i - 1]!)).toBe(true)
    // At least eight of the nine slats share this pixel
    expect(shares.every(share => share > 0)).toBe(true)
    const image = readExr(
      passesToExr(passes, {
        passes: ['crypto_object'],
        objectNames: parts.map(part => part.name),
        materialNames: ['white'],
      }),
    )
    // Two ranks a layer of R, G, B, A
    expect(image.channels.filter(channel => /^cryptoObject\d\d\.R$/.test(channel.name))).toHaveLength(
      Math.ceil(ranks / 2),
    )
  })
})

it('in several parts each layer stands for itself, Cryptomatte with its manifest; read together nothing is lost', async () => {
  const passes = render(
    scene([object('ball', ball([0, 0, 0], 1, 24), { asset: 'toy' }), object('wall', wall(-2))], {
      environment: constantEnvironment(),
    }),
    { camera, passes: [...DATA, 'beauty'] },
  )
  const options = {
    passes: [...DATA, 'beauty'],
    objectNames: ['ball', 'wall'],
    materialNames: ['white'],
    assetNames: ['toy', 'wall'],
  }
  const bytes = passesToExr(passes, { ...options, parts: true, compression: 'piz' })
  const parts = readExrParts(bytes)
  expect(parts.map(part => part.name)).toEqual(['beauty', ...new Set(parts.slice(1).map(part => part.name))])
  expect(parts[0]!.image.channels.map(channel => channel.name)).toEqual(['A', 'B', 'G', 'R'])
  const crypto = parts.find(part => part.name === 'cryptoAsset')!
  expect(crypto.image.channels.map(channel => channel.name)).toEqual(
    ['00', '01', '02'].flatMap(rank => ['A', 'B', 'G', 'R'].map(c => `cryptoAsset${rank}.${c}`)),
  )
  expect(crypto.image.attributes.filter(attribute => attribute.name.endsWith('/manifest'))).toHaveLength(1)
  expect(parts[0]!.image.attributes.some(attribute => attribute.name.startsWith('cryptomatte/'))).toBe(false)
  const one = await readPassFile(passesToExr(passes, options))
  const many = await readPassFile(bytes)
  expect(many.passes).toEqual(one.passes)
  for (const name of one.planes.keys()) expect(many.planes.get(name), name).toEqual(one.planes.get(name))
  expect(many.coverage.get('crypto_asset')).toEqual(one.coverage.get('crypto_asset'))
  expect(many.objectNames).toEqual(one.objectNames)
  // With a codec that loses, only light does
  const close = await readPassFile(passesToExr(passes, { ...options, parts: true, compression: 'dwaa' }))
  for (const name of one.planes.keys())
    if (!/^[RGB]$/.test(name)) expect(close.planes.get(name), name).toEqual(one.planes.get(name))
  expect(close.coverage.get('crypto_object')).toEqual(one.coverage.get('crypto_object'))
  expect(() => passesToExr(passes, { ...options, compression: 'dwaa' })).toThrow(/several parts/)
})

it('a file in parts is unpacked part by part as its planes are asked for, and a damaged part harms no other', async () => {
  const passes = render(
    scene([object('ball', ball([0, 0, 0], 1, 24)), object('wall', wall(-2))], { environment: constantEnvironment() }),
    { camera, passes: [...DATA, 'beauty'] },
  )
  const bytes = passesToExr(passes, {
    passes: [...DATA, 'beauty'],
    objectNames: ['ball', 'wall'],
    materialNames: ['white'],
    assetNames: ['ball', 'wall'],
    parts: true,
  })
  const whole = await readPassFile(bytes)
  const file = await openPassFile(bytes)
  expect(file.passes).toEqual(whole.passes)
  expect(file.assetNames).toEqual(['ball', 'wall'])
  expect(() => file.planes.get('depth.Z')).toThrow(StillPacked)
  expect(await unpacking(() => file.planes.get('depth.Z'))).toEqual(whole.planes.get('depth.Z'))
  expect(file.planes.get('depth.Z')).toHaveLength(file.width * file.height)
  expect(() => file.planes.get('normal.X')).toThrow(StillPacked)
  expect(() => coverageOf(file, 'objects')).toThrow(StillPacked)
  expect(await unpacking(() => coverageOf(file, 'objects'))).toEqual(coverageOf(whole, 'objects'))
  expect(file.planes.get('no such plane')).toBeUndefined()
  // The last part's last block loses its bytes: only who asks for that part hears of it
  const cut = bytes.slice()
  const last = readExrParts(bytes)
    .at(-1)!
    .image.channels.map(channel => channel.name)
  cut.fill(0, cut.length - 40)
  const hurt = await openPassFile(cut)
  expect(await unpacking(() => hurt.planes.get('R'))).toEqual(whole.planes.get('R'))
  await expect(
    unpacking(() =>
      last[0]!.startsWith('crypto')
        ? coverageOf(hurt, /Material/.test(last[0]!) ? 'materials' : /Asset/.test(last[0]!) ? 'assets' : 'objects')
        : hurt.planes.get(last[0]!),
    ),
  ).rejects.toThrow(/damaged/)
})

it('names of materials stay apart from those of wholes', () => {
  const passes = render(scene([object('a', wall(), { asset: 'house' })], { materials: [material()] }), {
    camera,
    passes: ['crypto_asset', 'crypto_material'],
    samples: 4,
  })
  expect(passes.coverage.crypto_asset!.index[0]).toBe(1)
  expect(passes.coverage.crypto_material!.index[0]).toBe(1)
})
