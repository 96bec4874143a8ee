// The shore that the survey balloon's footage is taken from: shingle, reeds, sea, breakwater with its beacon, and a fog
// bank behind it.
import type { Scene } from '../core/scene/scene'
import { normalized, type Vector3 } from '../core/scene/vector'
import type { CameraTrack, TrackFrame } from '../core/track/track'
import { wander } from '../core/engine/wander'
import { fractal, mix, random, smooth } from './noise'
import { box, join, terrain, turned, type Mesh } from './mesh'
import { object, surface, texture } from './parts'
import { normals, paint, stone } from './textures'
import { waves } from './quay'

export const SURVEY = {
  width: 960,
  height: 540,
  frames: 48,
  rate: { numerator: 24000, denominator: 1001 },
  sensorWidth: 24.9,
}
const SEA = -1.55

/** The camera of a frame (0 is the first): carried along the shore by hand, looking out to the breakwater. */
export function surveyCamera(i: number): TrackFrame {
  const t = i / 23.976
  const walk = i / (SURVEY.frames - 1)
  return {
    x: -0.75 + walk * 1.5 + 0.012 * wander(t * 1.1, 1),
    y: 1.68 + 0.018 * Math.sin(t * 5.6) + 0.01 * wander(t * 1.7, 2),
    z: 0.4 - walk * 0.5 + 0.01 * wander(t, 3),
    heading: -1.5 + walk * 3.4 + 0.32 * wander(t * 1.3, 4),
    pitch: -0.4 + 0.22 * wander(t * 1.5, 5),
    bank: 0.35 * wander(t * 0.9, 6),
    focalLength: 32,
  }
}

/** The track with points on things that stand still, where a tracker would have found corners. */
export function surveyTrack(): CameraTrack {
  const next = random(31)
  const points: CameraTrack['points'] = []
  const add = (name: string, place: Vector3): void => {
    points.push({ name, place: place.map(value => Math.round(value * 1e4) / 1e4) as Vector3 })
  }
  for (let i = 0; i < 26; i++) {
    const x = -7 + next() * 14
    const z = -4.5 - next() * 8
    add(`shingle ${i + 1}`, [x, shingle(x, z), z])
  }
  for (let i = 0; i < 18; i++) {
    const x = -30 + i * 2.3 + next()
    const z = -68.6
    add(`breakwater ${i + 1}`, [x, rubble(x, z), z])
  }
  add('beacon foot', [8, 0.3, -71])
  add('beacon lamp', [8, 4.3, -71])
  add('beacon gallery', [8, 2.9, -70.4])
  for (let i = 0; i < 7; i++) add(`groyne ${i + 1}`, [-3.4 - i * 0.75, 0.57 - i * 0.045, -9.5 - i * 0.9])
  return {
    rate: SURVEY.rate,
    first: 1,
    sensorWidth: SURVEY.sensorWidth,
    frames: Array.from({ length: SURVEY.frames }, (_, i) => {
      const frame = surveyCamera(i)
      return Object.fromEntries(
        Object.entries(frame).map(([key, value]) => [key, Math.round(value * 1e5) / 1e5]),
      ) as unknown as TrackFrame
    }),
    points,
  }
}

const shingle = (x: number, z: number): number =>
  mix(0.05, SEA - 0.3, smooth(-7, -19, z + (fractal(x * 0.12, 3, 3, 4) - 0.5) * 3)) +
  (fractal(x * 0.5, z * 0.5, 4, 6) - 0.5) * 0.22 +
  (fractal(x * 5, z * 5, 3, 9) - 0.5) * 0.06
const rubble = (x: number, z: number): number => {
  const across = 1 - Math.abs((z + 71) / 6.4)
  const end = smooth(13, 8, x)
  const bulk = Math.min(1, Math.max(0, across * 1.7)) * 2.6 * end
  return (
    SEA -
    0.5 +
    bulk +
    (bulk > 0.2
      ? (fractal(x * 0.9, z * 0.9, 4, 3) - 0.5) * 1.5 +
        (Math.floor(fractal(x * 0.5, z * 0.7, 2, 8) * 9) / 9 - 0.5) * 0.9
      : 0)
  )
}

/** Haar morning: bright pale grey all over, a little warmer low down where the sun will come through. */
export function haarSky(width = 512): { width: number; height: number; pixels: Float32Array } {
  const height = width / 2
  const pixels = new Float32Array(width * height * 4)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const e = 90 - ((y + 0.5) / height) * 180
      const turn = (x + 0.5) / width
      const lit = 0.5 + 0.5 * Math.cos((turn - 0.62) * 2 * Math.PI)
      const cloud = smooth(0.3, 0.72, fractal(turn * 26, Math.sqrt(Math.max(0, e) + 1) * 2.6, 6, 15))
      const k =
        e < 0
          ? 0.16
          : mix(0.66, 0.36, smooth(2, 50, e)) *
            mix(0.66, 1.22, cloud) *
            mix(0.85, 1.2, lit ** 3 * Math.exp(-(((e - 14) / 24) ** 2)))
      pixels.set(
        [
          k * mix(0.93, 1.12, lit * Math.exp(-Math.abs(e) / 30)),
          k,
          k * mix(1.1, 0.88, lit * Math.exp(-Math.abs(e) / 30)),
          1,
        ],
        (y * width + x) * 4,
      )
    }
  }
  return { width, height, pixels }
}

/** Reeds on the near bank: blades that lean with the wind, each in its own time; plumes on some. */
function reeds(seconds: number): { blades: Mesh; plumes: Mesh } {
  const next = random(77)
  const blades: Mesh = { positions: [], normals: [], uvs: [], indices: [] }
  const plumes: Mesh[] = []
  for (let i = 0; i < 210; i++) {
    const left = next() < 0.62
    const x = left ? -2.9 + next() ** 1.5 * 2.1 : 1.15 + next() * 1.5
    const z = -2.6 - next() * 1.6
    const tall = 0.9 + next() * 0.85
    const own = next() * 50
    const wide = 0.006 + next() * 0.008
    const turn = next() * Math.PI
    const lean0 = (next() - 0.5) * 0.5
    const gust = 0.16 + 0.16 * wander(seconds * 0.55 - x * 0.3, 9) + 0.05 * wander(seconds * 2.3 + own, 12)
    const lean = lean0 * 0.5 + gust
    const base = blades.positions.length / 3
    const steps = 9
    const droop = next() * 0.5
    let tip: Vector3 = [x, 0, z]
    for (let k = 0; k <= steps; k++) {
      const t = k / steps
      const bend = lean * t * t * tall * (1 + droop * t)
      const y = shingle(x, z) - 0.05 + tall * t * (1 - 0.12 * lean * lean * t)
      const px = x + bend
      const pz = z + bend * 0.2 * Math.sin(own)
      const w = wide * (1 - t * 0.92)
      const n = normalized([Math.sin(turn), 0.15, Math.cos(turn)])
      blades.positions.push(
        px - Math.cos(turn) * w,
        y,
        pz + Math.sin(turn) * w,
        px + Math.cos(turn) * w,
        y,
        pz - Math.sin(turn) * w,
      )
      blades.normals.push(...n, ...n)
      blades.uvs.push(0, t, 1, t)
      if (k) {
        const a = base + (k - 1) * 2
        blades.indices.push(a, a + 1, a + 2, a + 1, a + 3, a + 2)
      }
      tip = [px, y, pz]
    }
    if (i % 4 === 0)
      plumes.push(
        turned(
          [
            [0, -0.02],
            [0.012, 0.03],
            [0.02, 0.09],
            [0.014, 0.17],
            [0, 0.22],
          ],
          tip,
          10,
        ),
      )
  }
  return { blades, plumes: join(...plumes) }
}

/** All that stands still is made once; only the reeds are made anew for each frame. */
export function shoreMaker(): (i: number) => Scene {
  const pebble = paint(1024, 1024, (u, v) => {
    const cell = fractal(u * 60, v * 60, 3, 71)
    const own = fractal(u * 130, v * 130, 2, 73)
    const k = mix(0.24, 0.52, cell) * mix(0.75, 1.2, own)
    return [k * 1.03, k, k * 0.95, 1]
  })
  const pebbleBumps = normals(1024, 1024, (x, y) => fractal(x / 17, y / 17, 4, 79), 5)
  const sea = terrain(-14000, 14000, -24000, -6, 1, 1, () => SEA, 1 / 9)
  const ground = terrain(-14, 14, -22, 4, 260, 260, shingle, 0.55)
  const wall = terrain(-72, 13, -78, -64, 300, 60, rubble, 0.3)
  const posts = join(
    ...Array.from({ length: 7 }, (_, i) =>
      turned(
        [
          [0.11, -1.2],
          [0.105, 0.5 - i * 0.045],
          [0.07, 0.56 - i * 0.045],
          [0, 0.57 - i * 0.045],
        ],
        [-3.4 - i * 0.75, 0, -9.5 - i * 0.9],
        14,
      ),
    ),
  )
  const beacon = join(
    turned(
      [
        [0.5, 0],
        [0.42, 2.4],
        [0.62, 2.5],
        [0.62, 2.65],
        [0.3, 2.7],
        [0.3, 3.5],
        [0.4, 3.6],
        [0, 4.1],
      ],
      [8, 0.3, -71],
      24,
    ),
    box([7, -0.4, -72.2], [9, 0.4, -69.8], 0.05),
  )
  const materials = [
    surface({ name: 'shingle', roughness: 0.8, baseTexture: texture(pebble), normalTexture: texture(pebbleBumps) }),
    surface({
      name: 'sea',
      baseColour: [0.02, 0.03, 0.034, 1],
      roughness: 0.13,
      normalTexture: texture(waves(1024)),
      normalScale: 0.8,
    }),
    surface({ name: 'rubble', baseTexture: texture(paint(512, 512, stone)), roughness: 0.85 }),
    surface({ name: 'post', baseColour: [0.1, 0.085, 0.07, 1], roughness: 0.9 }),
    surface({ name: 'beacon', baseColour: [0.42, 0.4, 0.37, 1], roughness: 0.7 }),
    surface({ name: 'reed', baseColour: [0.27, 0.29, 0.11, 1], roughness: 0.65 }),
    surface({ name: 'plume', baseColour: [0.3, 0.22, 0.15, 1], roughness: 1 }),
  ]
  const still = [
    object('shingle', ground, 0),
    object('sea', sea, 1),
    object('breakwater', wall, 2),
    object('groyne', posts, 3),
    object('beacon', beacon, 4),
  ]
  const sky = haarSky()
  return i => {
    const { blades, plumes } = reeds(i / 23.976)
    return {
      objects: [...still, object('reeds', blades, 5), object('plumes', plumes, 6)],
      materials,
      lights: [],
      cameras: [],
      notes: [],
      environment: { ...sky, turn: 0, gain: [1, 1, 1], seenByCamera: true },
    }
  }
}

const FOG: Vector3 = [0.6, 0.615, 0.63]
/**
 * How much of the light behind it comes through the fog bank along a ray, and thin haze before it. metres: along the
 * ray; 1e10 for the sky.
 */
export function throughFog(eye: Vector3, d: Vector3, metres: number, seconds: number): number {
  let thick = 0
  const from = 80
  const to = 300
  const steps = 7
  for (let k = 0; k < steps; k++) {
    const far = from + ((to - from) * (k + 0.5)) / steps
    if (far > metres) break
    const x = eye[0] + d[0] * far
    const y = eye[1] + d[1] * far
    const z = eye[2] + d[2] * far
    const bank = fractal(x * 0.022 + seconds * 0.12, z * 0.03 + y * 0.05, 4, 23)
    const top = 2 + bank * 13
    thick +=
      (smooth(top + 4, top - 4, y) *
        (0.35 + 1.1 * fractal(x * 0.05 - seconds * 0.2, y * 0.12 + z * 0.02, 3, 29)) *
        0.016 *
        (to - from)) /
      steps
  }
  // The sky above is seen through less and less of the haze
  return Math.exp(-thick - (metres > 1e9 ? 1500 * Math.exp(-Math.max(0, d[1]) * 11) : metres) / 900)
}
export const fogColour = FOG
