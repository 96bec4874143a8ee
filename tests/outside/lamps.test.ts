// What lamps and surroundings of the scene do in a picture, against what NumPy and OpenCV make of the same geometry.
import { describe, expect, it } from 'vitest'
import { firstValues } from '../../core/declare/values'
import { ANY_CAMERA, type Camera, type Light } from '../../core/scene/scene'
import { rotationFromDegrees } from '../../core/scene/vector'
import { surroundingsOf } from '../../core/scene/surroundings'
import { lampsSeen } from '../../core/treatment/lampsSeen'
import { treatmentOf } from '../../core/treatment/registry'
import { treat as treated } from '../compose/treat'
import { pythonOf } from '../python'
import { at, HEIGHT, made, pool, treat, WIDTH } from './made'

const BLACK = made(() => 0)
/** Turned every way, off the middle, its view shifted. */
const matrix = rotationFromDegrees(20, -8, 5)
matrix[12] = 1
matrix[13] = 1.5
matrix[14] = 2
const camera: Camera = { ...ANY_CAMERA, matrix, focalLength: 30, sensorWidth: 36, shiftX: 0.2, shiftY: -0.15 }
/** The place so far to the right, up and ahead of it. */
const ahead = (x: number, y: number, z: number): [number, number, number] =>
  [0, 1, 2].map(i => matrix[i]! * x + matrix[4 + i]! * y - matrix[8 + i]! * z + matrix[12 + i]!) as [
    number,
    number,
    number,
  ]
const unit = (v: readonly number[]): [number, number, number] =>
  v.map(part => part / Math.hypot(...v)) as [number, number, number]

const lights: Light[] = [
  { kind: 'ball', name: 'ball', centre: ahead(1.2, 0.8, 5), radius: 0.6, radiance: [3, 2, 1] },
  {
    kind: 'disc',
    name: 'disc',
    centre: ahead(-1, -0.4, 4),
    radius: 0.7,
    normal: unit(matrix.slice(8, 11).map((part, i) => part + 0.8 * matrix[i]!)),
    radiance: [2, 2, 2],
  },
  { kind: 'tube', name: 'tube', centre: ahead(-0.6, 1, 4), half: [0.5, 0.2, 0.1], radius: 0.05, radiance: [5, 5, 5] },
]

describe('lamps of the scene', () => {
  it.each(lights)('a $kind has the light that it has in the picture, and its middle (rays by NumPy)', async light => {
    const lamps = lampsSeen([light], camera, WIDTH, HEIGHT)
    const values = { ...firstValues(treatmentOf('halo').values), feeds: 'the shot’s lamps', shows: 'what feeds it' }
    const out = await treat('halo', values, BLACK, { lamps })
    // Of a pixel 8 x 8 rays. Its geometry is written out from glTF's axes: the camera looks along -Z, up is +Y
    const theirs = pythonOf<{ sum: number; x: number; y: number }>(
      `
import json, sys, numpy as np
d = json.load(sys.stdin); n = 8
W, H = d['width'], d['height']; c = d['camera']; m = np.array(c['matrix']).reshape(4, 4).T
t = c['sensorWidth'] / 2 / c['focalLength']
xs = (np.arange(W * n) + 0.5) / n; ys = (np.arange(H * n) + 0.5) / n
px, py = np.meshgrid(xs, ys)
u = (px / W * 2 - 1 + c['shiftX']) * t; v = (1 - py / H * 2 + c['shiftY']) * t * H / W
ray = u[..., None] * m[:3, 0] + v[..., None] * m[:3, 1] - m[:3, 2]
ray /= np.linalg.norm(ray, axis=-1, keepdims=True)
eye = m[:3, 3]; l = d['light']; to = np.array(l['centre']) - eye
if l['kind'] == 'ball':
    near = ray @ to
    hit = (near > 0) & (to @ to - near ** 2 < l['radius'] ** 2)
elif l['kind'] == 'disc':
    nrm = np.array(l['normal']); k = (to @ nrm) / (ray @ nrm)
    off = ray * k[..., None] - to
    hit = (k > 0) & ((off ** 2).sum(-1) < l['radius'] ** 2) & (to @ nrm < 0)
else:
    half = np.array(l['half']); long = np.linalg.norm(half); axis = half / long
    # Nearest of the ray to the axis
    cr = np.cross(ray, axis); size = np.linalg.norm(cr, axis=-1)
    apart = np.abs((cr @ to)) / size
    k = np.einsum('...i,...i', np.cross(np.broadcast_to(to, ray.shape), axis), cr) / size ** 2
    along = (ray * k[..., None] - to) @ axis
    hit = (apart < l['radius']) & (np.abs(along) < long) & (k > 0)
cells = hit.reshape(H, n, W, n).mean((1, 3)) * l['radiance'][0]
yy, xx = np.mgrid[:H, :W] + 0.5
print(json.dumps({'sum': float(cells.sum()), 'x': float((cells * xx).sum() / cells.sum()), 'y': float((cells * yy).sum() / cells.sum())}))`,
      { light, camera: { ...camera, matrix: [...matrix] }, width: WIDTH, height: HEIGHT },
    )
    let [sum, x, y] = [0, 0, 0]
    for (let i = 0; i < WIDTH * HEIGHT; i++) {
      sum += out[i * 4]!
      x += out[i * 4]! * ((i % WIDTH) + 0.5)
      y += out[i * 4]! * (Math.floor(i / WIDTH) + 0.5)
    }
    // One disc stands for it: its light to 4 %; of one that is seen aslant the nearer half is larger, which moves its middle
    expect(Math.abs(sum / theirs.sum - 1)).toBeLessThan(0.04)
    const near = Math.max(0.9, lamps[0]!.radius * 0.12)
    expect(Math.hypot(x / sum - theirs.x, y / sum - theirs.y)).toBeLessThan(near)
  })
  it('the sun has its irradiance, a point its intensity over the square of its distance', () => {
    const step = camera.sensorWidth / camera.focalLength / WIDTH
    const axis = ahead(0, 0, 1).map((value, i) => value - matrix[12 + i]!)
    const sun: Light = {
      kind: 'sun',
      name: 'sun',
      direction: axis.map(part => -part) as [number, number, number],
      diameter: 0.53,
      irradiance: [4, 4, 4],
    }
    const point: Light = { kind: 'point', name: 'point', position: ahead(0, 0, 3), intensity: [18, 18, 18] }
    for (const [light, irradiance] of [
      [sun, 4],
      [point, 2],
    ] as const) {
      const [lamp] = lampsSeen([light], camera, WIDTH, HEIGHT)
      // Radiance times the solid angle that its disc covers near the axis
      expect((lamp!.light[0] * Math.PI * lamp!.radius ** 2 * step * step) / irradiance).toBeCloseTo(1, 3)
    }
    const behind: Light = { kind: 'ball', name: 'behind', centre: ahead(0, 0, -3), radius: 0.5, radiance: [1, 1, 1] }
    const away: Light = { ...lights[1]!, normal: unit(matrix.slice(8, 11).map(part => -part)) } as Light
    expect(lampsSeen([behind, away], camera, WIDTH, HEIGHT)).toEqual([])
  })
  it('are hidden by what is nearer, as far as it covers them; one outside the frame sends its ghosts in', async () => {
    const lamp = { x: 48, y: 32, radius: 6, metres: 10, light: [1, 1, 1] as [number, number, number] }
    const values = { ...firstValues(treatmentOf('halo').values), feeds: 'the shot’s lamps', shows: 'what feeds it' }
    const sumOf = async (left: number, right: number): Promise<number> => {
      const depth = Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => (i % WIDTH < 48 ? left : right))
      return (await treat('halo', values, BLACK, { lamps: [lamp], depth })).reduce(
        (sum, v, i) => sum + (i % 4 ? 0 : v),
        0,
      )
    }
    const all = await sumOf(1e10, 1e10)
    expect(Math.abs(all / (Math.PI * 36) - 1)).toBeLessThan(0.01)
    expect(await sumOf(9, 1e10)).toBeCloseTo(all / 2, 3)
    expect(await sumOf(9, 9.5)).toBe(0)
    expect(await sumOf(10.2, 9.99)).toBeCloseTo(all, 3)
    const flare = { ...firstValues(treatmentOf('flare').values), feeds: 'the shot’s lamps', shows: 'the glow' }
    const ghosts = await treat('flare', { ...flare, amount: 1, size: 6, ghosts: 1 }, BLACK, {
      lamps: [{ ...lamp, x: -20 }],
      area: { left: 0, top: 0, right: WIDTH, bottom: HEIGHT },
      depth: new Float32Array(WIDTH * HEIGHT).fill(1),
    })
    // 0.62 times as far beyond the middle as the lamp is before it
    expect(at(ghosts, Math.round(48 + 0.62 * 68), 32, 1)).toBeGreaterThan(0.02)
    expect(at(ghosts, 10, 32, 1)).toBeLessThan(1e-4)
  })
  it('a lamp at a place is as large and bright as is said, and glows without taking from the picture', async () => {
    const own = firstValues(treatmentOf('glow').values)
    const values = { ...own, feeds: 'a place', x: 0.25, y: 0.5, light: 4, across: 10, amount: 0.5, size: 4 }
    const fed = await treat('glow', { ...values, shows: 'what feeds it' }, BLACK)
    expect(at(fed, 24, 32)).toBeCloseTo(0.18 * 16, 1)
    expect(at(fed, 31, 32)).toBe(0)
    const sum = (of: Float32Array): number => of.reduce((total, v, i) => total + (i % 4 === 1 ? v : 0), 0)
    expect(sum(fed) / (Math.PI * 25 * 0.18 * 16)).toBeCloseTo(1, 1)
    const after = await treat(
      'glow',
      values,
      made(() => 0.1),
    )
    expect(sum(after) - 0.1 * WIDTH * HEIGHT).toBeCloseTo(sum(fed) / 2, 1)
    expect(Math.min(...after)).toBeGreaterThan(0.0999)
  })
})

describe('glow as measured', () => {
  it('lays the picture of the spark on all light, core and skirt (OpenCV’s filter2D)', async () => {
    const [width, height, side] = [256, 192, 121]
    // A core of 1.2 pixels, a skirt as far as the picture goes, an arm that is not symmetric
    const spark = made(
      (x, y, c) => {
        const [dx, dy] = [x - side / 2, y - side / 2]
        const r = Math.hypot(dx, dy)
        return (
          Math.exp((-r * r) / 2.9) + (0.003 + 0.001 * c) / (1 + (r / 8) ** 2) + (dy > 0 && Math.abs(dx) < 2 ? 0.002 : 0)
        )
      },
      side,
      side,
    )
    const picture = made(
      (x, y) => ((x * 7 + y * 13) % 61 < 1 && x > 40 && x < 216 && y > 40 && y < 152 ? 50 : 0),
      width,
      height,
    )
    const values = { ...firstValues(treatmentOf('glow').values), spread: 'as measured', wide: side, amount: 1 }
    const out = await treated(pool, 'glow', { ...values, feeds: 'all light' }, width, height, picture, {
      small: { width: side, height: side, pixels: spark },
    })
    const theirs = pythonOf<number[]>(
      `
import json, sys, numpy as np, cv2
d = json.load(sys.stdin)
a = np.array(d['pixels'], np.float64).reshape(d['height'], d['width'], 4)[..., :3]
k = np.array(d['spark'], np.float64).reshape(d['side'], d['side'], 4)[..., :3]
out = np.stack([cv2.filter2D(a[..., c], -1, (k[..., c] / k[..., c].sum())[::-1, ::-1], borderType=cv2.BORDER_REFLECT) for c in range(3)], -1)
print(json.dumps(out.ravel().tolist()))`,
      { pixels: [...picture], spark: [...spark], side, width, height },
    )
    let [square, most, sum, light] = [0, 0, 0, 0]
    theirs.forEach((value, i) => {
      const own = out[Math.floor(i / 3) * 4 + (i % 3)]!
      square += (own - value) ** 2
      most = Math.max(most, value)
      sum += own
      light += value
    })
    expect(Math.abs(sum / light - 1)).toBeLessThan(1e-3)
    expect(Math.sqrt(square / theirs.length) / most).toBeLessThan(0.004)
  })
})

describe('shafts past things', () => {
  it('begin in a glow round their point, as much of it as stands behind (its closed form)', async () => {
    const depth = Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => (i % WIDTH < 40 ? 8 : 1e10))
    const values = {
      ...firstValues(treatmentOf('shafts').values),
      ...{ feeds: 'what stands behind', behind: 20, reach: 10, x: 0.5, y: 0.5 },
    }
    const fed = await treat('shafts', { ...values, shows: 'what feeds it' }, BLACK, { depth })
    for (const [x, y] of [
      [48, 32],
      [60, 40],
      [44, 20],
    ] as const)
      expect(at(fed, x, y)).toBeCloseTo(Math.exp(-((x + 0.5 - 48) ** 2 + (y + 0.5 - 32) ** 2) / 200), 4)
    expect(at(fed, 39, 32)).toBe(0)
    // What hides the point throws no light on to its own side
    const light = await treat('shafts', { ...values, amount: 1, shows: 'the glow' }, BLACK, { depth })
    expect(at(light, 78, 32)).toBeGreaterThan(0.05)
    expect(at(light, 18, 32)).toBeLessThan(at(light, 78, 32) / 3)
  })
})

describe('fog in the light of the surroundings', () => {
  it.each([0, 0.5, -0.3])(
    'of asymmetry %f is the integral of their light by the phase function of Henyey and Greenstein (NumPy)',
    async forward => {
      const [wide, high] = [64, 32]
      // A sky, a ground, and a broad light to one side that is not on an axis
      const sky = made(
        (x, y, c) => {
          const [phi, theta] = [(x / wide - 0.5) * 2 * Math.PI, (y / high) * Math.PI]
          const d = [Math.sin(phi) * Math.sin(theta), Math.cos(theta), -Math.cos(phi) * Math.sin(theta)]
          const lamp = unit([0.6, 0.3, -0.7])
          const near = d.reduce((sum, part, i) => sum + part * lamp[i]!, 0)
          return [0.3, 0.4, 0.6][c]! * (1.2 + d[1]!) + Math.exp(4 * (near - 1)) * (3 - c)
        },
        wide,
        high,
      )
      const turn = 35
      const surroundings = {
        light: surroundingsOf(sky, wide, high),
        turn,
        gain: [1.5, 1.5, 1.5] as [number, number, number],
      }
      const values = {
        ...firstValues(treatmentOf('fog').values),
        ...{ scatters: 'the surroundings', forward, half: 0.01, most: 1, colour: [1, 0.5, 1] },
      }
      const out = await treat(
        'fog',
        values,
        made(() => 0.7),
        { surroundings, camera, depth: new Float32Array(WIDTH * HEIGHT).fill(1000) },
      )
      const places = [
        [3, 3],
        [90, 5],
        [50, 30],
        [20, 60],
      ]
      const theirs = pythonOf<number[][]>(
        `
import json, sys, numpy as np
d = json.load(sys.stdin); g = d['forward']
W, H = d['width'], d['height']; c = d['camera']; m = np.array(c['matrix']).reshape(4, 4).T
t = c['sensorWidth'] / 2 / c['focalLength']
sky = np.array(d['sky']).reshape(d['high'], d['wide'], 4)[..., :3] * 1.5
theta = (np.arange(d['high']) + 0.5) / d['high'] * np.pi
# The middle lies towards -Z (azimuth 0), +X is at azimuth 90; a positive turn moves the picture to the right
azimuth = ((np.arange(d['wide']) + 0.5) / d['wide'] - 0.5) * 2 * np.pi + np.radians(d['turn'])
a, th = np.meshgrid(azimuth, theta)
way = np.stack([np.sin(a) * np.sin(th), np.cos(th), -np.cos(a) * np.sin(th)], -1)
edges = np.cos(np.arange(d['high'] + 1) / d['high'] * np.pi)
solid = ((edges[:-1] - edges[1:]) * 2 * np.pi / d['wide'])[:, None]
out = []
for x, y in d['places']:
    u = ((x + 0.5) / W * 2 - 1 + c['shiftX']) * t; v = (1 - (y + 0.5) / H * 2 + c['shiftY']) * t * H / W
    ray = u * m[:3, 0] + v * m[:3, 1] - m[:3, 2]; ray /= np.linalg.norm(ray)
    p = (1 - g * g) / (4 * np.pi * (1 + g * g - 2 * g * (way @ ray)) ** 1.5)
    out.append(((sky * (p * solid)[..., None]).sum((0, 1)) * np.array([1, 0.5, 1])).tolist())
print(json.dumps(out))`,
        {
          forward,
          sky: [...sky],
          wide,
          high,
          turn,
          places,
          camera: { ...camera, matrix: [...matrix] },
          width: WIDTH,
          height: HEIGHT,
        },
      )
      places.forEach(([x, y], i) =>
        theirs[i]!.forEach((value, c) => expect(Math.abs(at(out, x!, y!, c) / value - 1)).toBeLessThan(0.03)),
      )
    },
  )
})
