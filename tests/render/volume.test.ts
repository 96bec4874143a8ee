// Air with something in it, against Beer and Lambert, Henyey and Greenstein, and single scattering by hand.
import { addRow, rowsOf } from '../../core/shot/rows'
import { describe, expect, it } from 'vitest'
import { Evaluator } from '../../core/compose/evaluate'
import { compileScene } from '../../core/render/compile'
import { passesToExr } from '../../core/render/passfile'
import { Render } from '../../core/render/render'
import type { Light, Scene, Volume } from '../../core/scene/scene'
import { compose, normalized, type Vector3 } from '../../core/scene/vector'
import { newDocument, newLayer, type AirSettings } from '../../core/shot/document'
import { renameObject } from '../../core/shot/objects'
import { sceneAt, volumeAt } from '../../core/shot/scene'
import { startEngine } from '../../host/engine'
import { ball, constantEnvironment, lookAt, material, mean, object, quad, renderScene, scene } from '../scenes'

const cube = (size: number, at: Vector3 = [0, 0, 0]): number[] => compose(at, [0, 0, 0, 1], [size, size, size])
const mist = (change: Partial<Volume> = {}): Volume => ({
  name: 'mist',
  box: cube(2),
  density: 0.5,
  colour: [1, 1, 1],
  forward: 0,
  noise: 0,
  noiseSize: 1,
  seed: 1,
  base: 0,
  halfHeight: 0,
  ...change,
})
/** A long lens from far away along -Z: every ray crosses the box from front to back. */
const camera = lookAt([0, 0, 100], [0, 0, 0], (36 / 0.5) * 100)
const look = (volumes: Volume[], change: Partial<Scene> = {}, samples = 32) =>
  renderScene(scene(change.objects ?? [], { volumes, ...change }), {
    camera,
    width: 8,
    height: 8,
    samples,
    passes: ['volume'],
  }).volume
const part = (plane: Float32Array, channel: number): number => mean(plane, 4, channel)
const sun = (direction: Vector3): Light => ({
  kind: 'sun',
  name: 'sun',
  direction: normalized(direction),
  diameter: 0.05,
  irradiance: [1, 1, 1],
})

describe('a narrow beam', () => {
  const [density, strength, inner, outer, from] = [0.05, 100, 2, 4, -8]
  const beam: Light = {
    ...{ kind: 'spot', name: 'beam', position: [from, 0, 0], direction: [1, 0, 0] },
    ...{ intensity: [strength, strength, strength], inner, outer },
  }
  /**
   * Light of a beam that is scattered once, evenly all round, toward a ray that runs along -Z through a place: summed up
   * in steps of five millimetres. The beam's falloff is that of glTF, KHR_lights_punctual, spot.
   */
  const scattered = (x: number, y: number): number => {
    const [step, half] = [0.005, 10]
    let sum = 0
    for (let z = -half + step / 2; z < half; z += step) {
      const away = Math.hypot(x - from, y, z)
      const cosine = (x - from) / away
      const [far, near] = [outer, inner].map(degrees => Math.cos((degrees * Math.PI) / 180)) as [number, number]
      const share = Math.min(1, Math.max(0, (cosine - far) / (near - far)))
      const passed = Math.exp(-density * (away + half - z))
      sum += ((density / (4 * Math.PI)) * strength * share * share * passed * step) / away ** 2
    }
    return sum
  }
  const crossed = (lights: Light[], samples: number, volumes = [mist({ box: cube(20), density })]): number =>
    part(look(volumes, { lights }, samples), 0)
  // The view is half a metre wide and tall
  const places = Array.from({ length: 16 }, (_, i) => -0.25 + (i + 0.5) / 32)
  const truth = places.flatMap(x => places.map(y => scattered(x, y))).reduce((sum, value) => sum + value) / 256
  it('has all its light, whatever else there is', () => {
    expect(crossed([beam], 256) / truth).toBeCloseTo(1, 1.7)
    const dark: Light = { kind: 'point', name: 'weak', position: [0, 3, 0], intensity: [1, 1, 1] }
    expect((crossed([beam, dark], 1024) - crossed([dark], 1024)) / truth).toBeCloseTo(1, 1.5)
  })
  it('of a lamp that shines one way: the half of the ray before it has all of its light', () => {
    const [radiance, side, up] = [4000, 0.1, 3]
    const lamp: Light = {
      ...{ kind: 'box', name: 'lamp', centre: [0, up, 0], halfU: [side / 2, 0, 0], halfV: [0, -side / 2, 0] },
      ...{ normal: [0, 0, 1], radiance: [radiance, radiance, radiance] },
    }
    // So small that it is a point whose light goes with the cosine
    const [step, half] = [0.005, 10]
    let sum = 0
    for (let z = step / 2; z < half; z += step) {
      const away = Math.hypot(up, z)
      const intensity = (radiance * side * side * z) / away
      sum += ((density / (4 * Math.PI)) * intensity * Math.exp(-density * (away + half - z)) * step) / away ** 2
    }
    expect(crossed([lamp], 1024) / sum).toBeCloseTo(1, 1.5)
  })
  it('that goes past, or the other way, gives none', () => {
    const none = (change: Partial<Extract<Light, { kind: 'spot' }>>): number =>
      crossed([{ ...beam, ...change } as Light], 16)
    expect(none({ direction: [-1, 0, 0] })).toBe(0)
    expect(none({ direction: normalized([1, 0.5, 0]) })).toBe(0)
    expect(none({ position: [8, 0, 0] })).toBe(0)
  })
  it('that goes the way of the ray is in it from where its cone has become as wide as that', () => {
    const along: Light = { ...beam, position: [0, 0, 9], direction: [0, 0, -1] } as Light
    const [far, near] = [outer, inner].map(degrees => Math.cos((degrees * Math.PI) / 180)) as [number, number]
    // In steps that grow with the depth; rays part as they go
    const [first, steps] = [1e-3, 800]
    const grows = Math.log(19 / first) / steps
    const of = (x: number, y: number): number => {
      let sum = 0
      for (let i = 0; i < steps; i++) {
        const depth = first * Math.exp((i + 0.5) * grows)
        const away = Math.hypot(Math.hypot(x, y) * (0.91 + depth / 100), depth)
        const share = Math.min(1, Math.max(0, (depth / away - far) / (near - far))) ** 2
        const passed = Math.exp(-density * (away + depth + 1))
        sum += ((density / (4 * Math.PI)) * strength * share * passed * depth * grows) / away ** 2
      }
      return sum
    }
    const fine = Array.from({ length: 64 }, (_, i) => -0.25 + (i + 0.5) / 128)
    const sum = fine.flatMap(x => fine.map(y => of(x, y))).reduce((all, value) => all + value) / 4096
    expect(crossed([along], 1024) / sum).toBeCloseTo(1, 1)
  })
  it('of a disc is as wide as that and what its cone adds', () => {
    const [radius, radiance, cone] = [0.4, 200, 1.5]
    const disc: Light = {
      ...{ kind: 'disc', name: 'disc', centre: [from, 0, 0], normal: [1, 0, 0], radius },
      ...{ radiance: [radiance, radiance, radiance], cone: { inner: 1, outer: cone } },
    } as Light
    const [far, near] = [cone, 1].map(degrees => Math.cos((degrees * Math.PI) / 180)) as [number, number]
    // Rings of places on it, each standing for as much of it
    const spots = Array.from({ length: 400 }, (_, i) => {
      const [r, turn] = [radius * Math.sqrt((i + 0.5) / 400), i * 2.399963]
      return [r * Math.cos(turn), r * Math.sin(turn)] as const
    })
    const step = 0.02
    const of = (x: number, y: number): number => {
      let sum = 0
      for (let z = -2 + step / 2; z < 2; z += step)
        for (const [sy, sz] of spots) {
          const away = Math.hypot(x - from, y - sy, z - sz)
          const cosine = (x - from) / away
          const share = Math.min(1, Math.max(0, (cosine - far) / (near - far))) ** 2
          const sent = (radiance * cosine * share * Math.PI * radius * radius) / spots.length / away ** 2
          sum += (density / (4 * Math.PI)) * sent * Math.exp(-density * (away + 10 - z)) * step
        }
      return sum
    }
    const some = Array.from({ length: 8 }, (_, i) => -0.25 + (i + 0.5) / 16)
    const sum = some.flatMap(x => some.map(y => of(x, y))).reduce((all, value) => all + value) / 64
    expect(crossed([disc], 2048) / sum).toBeCloseTo(1, 1)
  })
})

describe('what it takes', () => {
  it.each([
    [0.1, 2],
    [0.5, 2],
    [2, 2],
    [0.5, 1],
  ])('is 1 - exp(-%d x %d) through a box (Beer and Lambert)', (density, size) => {
    expect(part(look([mist({ density, box: cube(size) })]), 3)).toBeCloseTo(1 - Math.exp(-density * size), 4)
  })
  it('ends at what stands in it', () => {
    const wall = object('wall', quad([-5, -5, 0.5], [5, -5, 0.5], [5, 5, 0.5], [-5, 5, 0.5]))
    expect(part(look([mist()], { objects: [wall] }), 3)).toBeCloseTo(1 - Math.exp(-0.5 * 0.5), 4)
    // Half of the rays go on through a half-clear wall
    const half = object('wall', { ...wall.parts[0]!, material: 0 })
    expect(
      part(
        look(
          [mist()],
          { objects: [half], materials: [material({ alphaMode: 'blend', baseColour: [1, 1, 1, 0.5] })] },
          256,
        ),
        3,
      ),
    ).toBeCloseTo((1 - Math.exp(-0.25) + 1 - Math.exp(-1)) / 2, 2)
  })
  it('adds up over boxes, and fills all space when it has none', () => {
    expect(part(look([mist(), mist({ density: 0.25 })], {}, 64), 3)).toBeCloseTo(1 - Math.exp(-1.5), 2)
    const wall = object('wall', quad([-5, -5, 90], [5, -5, 90], [5, 5, 90], [-5, 5, 90]))
    expect(part(look([mist({ box: undefined, density: 0.03 })], { objects: [wall] }), 3)).toBeCloseTo(
      1 - Math.exp(-0.3),
      3,
    )
  })
  it('thins out with height: to a half every half height', () => {
    const level = (y: number): number => {
      const passes = renderScene(
        scene([], { volumes: [mist({ box: cube(0.4, [0, y, 0]), base: 1, halfHeight: 2 })] }),
        {
          camera: lookAt([0, y, 100], [0, y, 0], (36 / 0.1) * 100),
          width: 8,
          height: 8,
          samples: 16,
          passes: ['volume'],
        },
      )
      return -Math.log(1 - mean(passes.volume, 4, 3))
    }
    expect(level(0)).toBeCloseTo(0.2, 3)
    expect(level(3) / level(1)).toBeCloseTo(0.5, 1)
    expect(level(5) / level(1)).toBeCloseTo(0.25, 1)
  })
  it('is uneven when asked, about as much on the whole, and the same for the same seed', () => {
    const field = (seed: number): Float32Array =>
      renderScene(scene([], { volumes: [mist({ box: cube(20), density: 0.01, noise: 1, noiseSize: 2, seed })] }), {
        camera: lookAt([0, 0, 100], [0, 0, 0], (36 / 18) * 100),
        width: 32,
        height: 32,
        samples: 32,
        passes: ['volume'],
      }).volume
    const one = field(1)
    const mean1 = part(one, 3)
    const spread = Math.sqrt(
      one.reduce((sum, value, i) => (i % 4 === 3 ? sum + (value - mean1) ** 2 : sum), 0) / (one.length / 4),
    )
    expect(Math.abs(mean1 / (1 - Math.exp(-0.2)) - 1)).toBeLessThan(0.2)
    expect(spread / mean1).toBeGreaterThan(0.1)
    expect([...field(1)]).toEqual([...one])
    expect([...field(2)]).not.toEqual([...one])
  })
})

describe('what it sends', () => {
  it('under even light is what it takes, times its colour, while it is thin', () => {
    const thin = look([mist({ density: 0.005, colour: [1, 0.5, 0.25] })], { environment: constantEnvironment(2) }, 256)
    for (const [channel, colour] of [
      [0, 1],
      [1, 0.5],
      [2, 0.25],
    ] as const)
      expect(part(thin, channel) / part(thin, 3) / 2).toBeCloseTo(colour, 1)
  })
  it.each([[0], [0.5], [-0.4], [0.8]])('of a sun goes on with the mean cosine %d (Henyey and Greenstein)', forward => {
    let whole = 0
    let along = 0
    const steps = 40
    for (let i = 0; i < steps; i++) {
      // Light that travels at this cosine to the way on to the camera, +Z
      const cosine = ((i + 0.5) / steps) * 2 - 1
      const volume = look(
        [mist({ density: 0.001, forward })],
        { lights: [sun([Math.sqrt(1 - cosine * cosine), 0, cosine])] },
        4,
      )
      const sent = part(volume, 0) / part(volume, 3)
      const expected = (1 - forward ** 2) / (4 * Math.PI * (1 + forward ** 2 - 2 * forward * cosine) ** 1.5)
      expect(Math.abs(sent / expected - 1)).toBeLessThan(0.03)
      whole += (sent * 4 * Math.PI) / steps
      along += (sent * cosine * 4 * Math.PI) / steps
    }
    // Steps are coarse for a sharp peak
    expect(Math.abs(whole - 1)).toBeLessThan(forward > 0.6 ? 0.1 : 0.03)
    expect(Math.abs(along / whole - forward)).toBeLessThan(0.03)
  })
  it('is less the thicker it is on the way to the light: a slab lit from behind, by hand', () => {
    // Sun along +Z through the box towards the camera: light that is scattered anywhere has crossed all of it
    const density = 1
    const expected = (density * 2 * Math.exp(-density * 2)) / (4 * Math.PI)
    expect(Math.abs(part(look([mist({ density })], { lights: [sun([0, 0, 1])] }, 512), 0) / expected - 1)).toBeLessThan(
      0.06,
    )
  })
  it('has shafts: none behind a board, all beside it', () => {
    const board = object('board', quad([-3, 2, 3], [0, 2, 3], [0, 2, -3], [-3, 2, -3]), { hidden: true })
    const passes = renderScene(scene([board], { volumes: [mist({ density: 0.1 })], lights: [sun([0, -1, 0])] }), {
      camera: lookAt([0, 0, 100], [0, 0, 0], (36 / 2) * 100),
      width: 16,
      height: 8,
      samples: 64,
      passes: ['volume'],
    })
    const column = (x: number): number => mean(passes.volume, 4, 0, i => i % 16 === x)
    expect(column(2)).toBe(0)
    expect(column(13)).toBeGreaterThan(0.005)
  })
})

it('in a shot: half of the light is gone after so many metres; a box stands on its place', () => {
  const settings = {
    id: 'a',
    name: 'mist',
    on: true,
    shape: 'box' as const,
    x: 1,
    y: 0.5,
    z: -4,
    width: 2,
    height: 3,
    depth: 4,
    half: 10,
    colour: [0.9, 0.8, 2] as [number, number, number],
    forward: 0.3,
    noise: 0,
    noiseSize: 1,
    seed: 1,
    base: 0,
    halfHeight: 0,
  }
  const volume = volumeAt(settings, 1)!
  expect(Math.exp(-volume.density * 10)).toBeCloseTo(0.5, 6)
  expect(volume.box).toEqual(compose([1, 2, -4], [0, 0, 0, 1], [2, 3, 4]))
  expect(volume.colour).toEqual([0.9, 0.8, 1])
  expect(volumeAt({ ...settings, shape: 'space' }, 1)!.box).toBeUndefined()
})

describe('in the body of a thing', () => {
  const density = 0.7
  const takes = (parts: Volume['body'], change: Partial<Scene> = {}, size = 16) =>
    renderScene(scene(change.objects ?? [], { volumes: [mist({ box: undefined, body: parts, density })], ...change }), {
      camera: lookAt([0, 0, 100], [0, 0, 0], (36 / 2.4) * 100),
      width: size,
      height: size,
      samples: 64,
      passes: ['volume'],
    }).volume
  const at = (x: number, y: number, size = 16): [number, number] => [
    ((x + 0.5) / size - 0.5) * 2.4,
    (0.5 - (y + 0.5) / size) * 2.4,
  ]
  it('a ball takes what the chord through it says', () => {
    const plane = takes({ parts: [ball([0, 0, 0], 1, 64)], matrix: cube(1) })
    for (let y = 0; y < 16; y++)
      for (let x = 0; x < 16; x++) {
        const [u, v] = at(x, y)
        const r = Math.hypot(u, v)
        if (r > 0.8 && r < 1.2) continue
        expect(plane[(y * 16 + x) * 4 + 3]).toBeCloseTo(
          r < 1 ? 1 - Math.exp(-density * 2 * Math.sqrt(1 - r * r)) : 0,
          1,
        )
      }
    expect(plane[(8 * 16 + 8) * 4 + 3]! / (1 - Math.exp(-density * 2))).toBeCloseTo(1, 2)
  })
  it('a hollow ball is clear within, and one stretched by its place is as long as that', () => {
    const hollow = takes({ parts: [ball([0, 0, 0], 1, 64), ball([0, 0, 0], 0.6, 64)], matrix: cube(1) })
    expect(hollow[(8 * 16 + 8) * 4 + 3]).toBeCloseTo(1 - Math.exp(-density * 0.8), 1)
    const long = takes({ parts: [ball([0, 0, 0], 1, 64)], matrix: compose([0, 0, 3], [0, 0, 0, 1], [1, 1, 2]) })
    expect(long[(8 * 16 + 8) * 4 + 3]).toBeCloseTo(1 - Math.exp(-density * 4), 2)
  })
  it('the camera may stand in it, and things within it cut it off', () => {
    const inside = renderScene(
      scene([], {
        volumes: [mist({ box: undefined, body: { parts: [ball([0, 0, 0], 5, 64)], matrix: cube(1) }, density: 0.2 })],
      }),
      { camera: lookAt([0, 0, 0], [0, 0, -1], 400), width: 4, height: 4, samples: 64, passes: ['volume'] },
    ).volume
    expect(part(inside, 3)).toBeCloseTo(1 - Math.exp(-1), 2)
    const wall = object('wall', quad([-5, -5, 0], [5, -5, 0], [5, 5, 0], [-5, 5, 0]))
    expect(
      takes({ parts: [ball([0, 0, 0], 1, 64)], matrix: cube(1) }, { objects: [wall] })[(8 * 16 + 8) * 4 + 3],
    ).toBeCloseTo(1 - Math.exp(-density), 2)
  })
  it('light on its way through it is lost too', () => {
    // Sun along +Z, as for the slab: all that is scattered at the middle has crossed its whole chord
    const plane = takes({ parts: [ball([0, 0, 0], 1, 64)], matrix: cube(1) }, { lights: [sun([0, 0, 1])] })
    const expected = (density * 2 * Math.exp(-density * 2)) / (4 * Math.PI)
    expect(Math.abs(plane[(8 * 16 + 8) * 4]! / expected - 1)).toBeLessThan(0.12)
  })
  it('in a shot it is the thing by its name, also when that is left out of the picture; without the thing there is none', () => {
    const document = newDocument(8, 8)
    const air = {
      id: 'a',
      name: 'smoke',
      on: true,
      shape: 'thing' as const,
      thing: 'bottle',
      x: 0,
      y: 0,
      z: 0,
      width: 1,
      height: 1,
      depth: 1,
      half: 2,
      colour: [1, 1, 1] as [number, number, number],
      forward: 0,
      noise: 0,
      noiseSize: 1,
      seed: 1,
      base: 0,
      halfHeight: 0,
    }
    document.scene.volumes = rowsOf<AirSettings>([air])
    document.scene.objects.bottle = { absent: true, position: [1, 2, 3] }
    const file = { scene: scene([object('bottle', ball([0, 0, 0], 1, 8))]) }
    const [volume] = sceneAt(document, file, 1).volumes!
    expect(volume!.body!.matrix.slice(12, 15)).toEqual([1, 2, 3])
    renameObject(document, ['bottle'], 'bottle', 'flask')
    expect(document.scene.volumes!.a!.thing).toBe('flask')
    expect(sceneAt(document, file, 1).volumes).toHaveLength(1)
    expect(sceneAt(document, {}, 1).volumes).toEqual([])
  })
})

it('is laid over everything as strongly as wanted', async () => {
  const engine = await startEngine(1)
  try {
    const description = scene([object('wall', quad([-9, -9, -3], [9, -9, -3], [9, 9, -3], [-9, 9, -3]))], {
      volumes: [mist({ colour: [0.6, 0.6, 0.6] })],
      environment: constantEnvironment(1),
    })
    const compiled = compileScene(engine.kernels, description)
    const wanted = [
      'beauty',
      'alpha',
      'diffuse_direct',
      'diffuse_indirect',
      'reflection',
      'refraction',
      'emission',
      'environment',
      'volume',
    ]
    const job = new Render(engine.pool, compiled, { width: 8, height: 8, samples: 16, passes: wanted, camera })
    while (!job.done) job.step(16)
    const passes = job.snapshot()
    const bytes = passesToExr(passes, { passes: wanted, objectNames: ['wall'], materialNames: ['white'] })
    const document = newDocument(8, 8)
    document.passes.file = {
      blob: 'x',
      name: 'x',
      width: 8,
      height: 8,
      passes: wanted,
      objects: ['wall'],
      materials: ['white'],
      of: '',
    }
    const build = async (air?: number): Promise<Float32Array> => {
      const next = structuredClone(document)
      addRow(next.build.layers, { ...newLayer('air', 'Air'), kind: 'air', of: 'render', amount: air ?? 1 })
      const raster = await new Evaluator(engine.pool, () => Promise.resolve(bytes), 2 ** 28).evaluate({
        document: next,
        frame: 1,
        shrink: 1,
        show: { kind: 'build' },
      })
      return engine.kernels.floats(raster.pointer, 8 * 8 * 4).slice()
    }
    const clear = await build(0)
    const full = await build()
    const half = await build(0.5)
    const { volume } = passes
    for (let i = 0; i < 64; i++) {
      expect(full[i * 4]).toBeCloseTo(clear[i * 4]! * (1 - volume![i * 4 + 3]!) + volume![i * 4]!, 4)
      expect(half[i * 4]).toBeCloseTo(clear[i * 4]! * (1 - volume![i * 4 + 3]! / 2) + volume![i * 4]! / 2, 4)
      expect(full[i * 4 + 3]).toBe(clear[i * 4 + 3])
    }
    job.dispose()
    compiled.dispose()
  } finally {
    engine.stop()
  }
})
