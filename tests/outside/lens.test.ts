// The lens against OpenCV 4.6 (Debian): its distortion model, its images, and its calibration of real photographs; the
// sun against the worked example of the
// NREL solar position algorithm; chromaticities against the CIE's tables.
import { describe, expect, it } from 'vitest'
import { bend, lensFromFocal, lensOverFocal, overscanOf, solveLens, straighten, type Lens } from '../../core/match/lens'
import { daylightChromaticity, kelvinToRgb, offLocus, planckianChromaticity } from '../../core/colour/kelvin'
import { sunFromShadow, sunInSky } from '../../core/match/sun'
import { project } from '../../core/match/project'
import { skyDirection } from '../../core/shot/lamps'
import { cameraAt } from '../../core/shot/scene'
import { DEFAULT_CAMERA, newDocument } from '../../core/shot/document'
import { Evaluator } from '../../core/compose/evaluate'
import { writePicture } from '../../core/formats/picture/picture'
import { Kernels } from '../../core/engine/memory'
import { Pool } from '../../core/engine/pool'
import { kernelModule } from '../../host/engine'
import { python } from '../python'

const FRAME = { width: 1600, height: 900 }
const LENSES: Lens[] = [
  { k1: -0.12, k2: 0.02 },
  { k1: 0.06, k2: 0 },
  { k1: -0.3, k2: 0.1 },
]

describe('Brown’s radial terms', () => {
  const focal = 1300
  const points = Array.from(
    { length: 40 },
    (_, i) => [40 + ((i * 39) % 1520), 30 + ((i * 97) % 840)] as [number, number],
  )
  it.each(LENSES)('k1 $k1, k2 $k2 bend as cv2.projectPoints does, and cv2.undistortPoints straightens', lens => {
    const { k1, k2 } = lensOverFocal(lens, FRAME.width, focal)
    const theirs = python<{ bent: [number, number][]; straight: [number, number][] }>(
      `
import sys, json, cv2, numpy as np
pts, f, w, h, k1, k2 = json.loads(sys.argv[1])
K = np.array([[f, 0, w / 2], [0, f, h / 2], [0, 0, 1]], np.float64); D = np.array([k1, k2, 0, 0], np.float64)
p = np.array(pts, np.float64)
rays = np.column_stack([(p[:, 0] - w / 2) / f, (p[:, 1] - h / 2) / f, np.ones(len(p))])
bent = cv2.projectPoints(rays, np.zeros(3), np.zeros(3), K, D)[0].reshape(-1, 2)
straight = cv2.undistortPointsIter(p.reshape(-1, 1, 2), K, D, np.eye(3), K, (cv2.TERM_CRITERIA_COUNT | cv2.TERM_CRITERIA_EPS, 200, 1e-12)).reshape(-1, 2)
print(json.dumps({'bent': bent.tolist(), 'straight': straight.tolist()}))`,
      JSON.stringify([points, focal, FRAME.width, FRAME.height, k1, k2]),
    )
    points.forEach((point, i) => {
      const b = bend(lens, FRAME, point)
      const s = straighten(lens, FRAME, point)
      expect(Math.hypot(b[0] - theirs.bent[i]![0], b[1] - theirs.bent[i]![1])).toBeLessThan(1e-6)
      expect(Math.hypot(s[0] - theirs.straight[i]![0], s[1] - theirs.straight[i]![1])).toBeLessThan(1e-3)
      const back = bend(lens, FRAME, s)
      expect(Math.hypot(back[0] - point[0], back[1] - point[1])).toBeLessThan(1e-8)
    })
    const again = lensFromFocal({ k1, k2 }, FRAME.width, focal)
    expect([again.k1, again.k2]).toEqual([expect.closeTo(lens.k1, 12), expect.closeTo(lens.k2, 12)])
  })

  it('found from chessboard rows and columns of a real photograph agree with the published calibration (opencv-doc, left_intrinsics.yml)', () => {
    const theirs = python<{
      focal: number
      k1: number
      k2: number
      boards: { name: string; curves: [number, number][][] }[]
    }>(`
import cv2, glob, json, numpy as np
folder = '/usr/share/doc/opencv-doc/examples/data'
fs = cv2.FileStorage(folder + '/left_intrinsics.yml', cv2.FILE_STORAGE_READ)
K = fs.getNode('camera_matrix').mat(); D = fs.getNode('distortion_coefficients').mat().reshape(-1)
boards = []
for path in sorted(glob.glob(folder + '/left[0-9]*.jpg')):
    grey = cv2.imread(path, 0); ok, c = cv2.findChessboardCorners(grey, (9, 6))
    if not ok: continue
    c = cv2.cornerSubPix(grey, c, (11, 11), (-1, -1), (3, 30, 0.01)).reshape(6, 9, 2)
    # The published principal point is not the middle: moved there, for which our lens is said
    c = c - np.array([K[0, 2], K[1, 2]]) + np.array([320.0, 240.0])
    boards.append({'name': path[-10:], 'curves': [c[i].tolist() for i in range(6)] + [c[:, j].tolist() for j in range(9)]})
print(json.dumps({'focal': K[0, 0], 'k1': D[0], 'k2': D[1], 'boards': boards}))`)
    const published = lensFromFocal({ k1: theirs.k1, k2: theirs.k2 }, 640, theirs.focal)
    const frame = { width: 640, height: 480 }
    const solved = solveLens(
      theirs.boards.flatMap(board => board.curves),
      frame,
      true,
    )
    // What the two lenses do to a place at three quarters of the half width
    const shift = (lens: Lens): number => bend(lens, frame, [320 + 240, 240])[0] - 560
    expect(Math.abs(shift(solved) - shift(published))).toBeLessThan(1)
    expect(solved.rms).toBeLessThan(0.3)
  })

  it('of made-up lines with a third of a pixel of noise are found to a pixel at the corner; k1 alone too', () => {
    let state = 7
    const noise = (): number => {
      state = (state * 1103515245 + 12345) % 2147483648
      return state / 2147483648 - 0.5
    }
    for (const lens of [
      { k1: -0.08, k2: 0 },
      { k1: 0.05, k2: 0 },
    ]) {
      const curves = [
        [
          [40, 30],
          [1560, 60],
        ],
        [
          [60, 870],
          [1540, 850],
        ],
        [
          [50, 40],
          [70, 860],
        ],
      ].map(([a, b]) =>
        Array.from({ length: 7 }, (_, i) => {
          const t = i / 6
          const p = bend(lens, FRAME, [a![0]! + (b![0]! - a![0]!) * t, a![1]! + (b![1]! - a![1]!) * t])
          return [p[0] + noise() * 0.66, p[1] + noise() * 0.66] as [number, number]
        }),
      )
      const solved = solveLens(curves, FRAME)
      const at = bend(solved, FRAME, [1500, 850])
      const truth = bend(lens, FRAME, [1500, 850])
      expect(Math.hypot(at[0] - truth[0], at[1] - truth[1])).toBeLessThan(1.5)
    }
  })
  it('say what is missing', () => {
    expect(() => solveLens([], FRAME)).toThrow(/three places/)
    expect(() =>
      solveLens(
        [
          [
            [700, 440],
            [800, 450],
            [900, 460],
          ],
        ],
        FRAME,
      ),
    ).toThrow(/middle of the picture/)
    expect(() =>
      solveLens(
        [
          [
            [10, 450],
            [800, 450],
            [1590, 450],
          ],
        ],
        FRAME,
      ),
    ).toThrow(/run through the middle/)
  })
})

describe('the plate without its lens', () => {
  const pool = new Pool(new Kernels(kernelModule()))
  /** A smooth picture with edges in it. */
  const picture = (width: number, height: number): Float32Array => {
    const out = new Float32Array(width * height * 4)
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const value =
          0.3 +
          0.2 * Math.sin(x / 9) * Math.cos(y / 11) +
          (Math.hypot(x - width * 0.3, y - height * 0.4) < 40 ? 0.3 : 0)
        out.set([value, value * 0.8, value * 0.5, 1], (y * width + x) * 4)
      }
    return out
  }
  const width = 320
  const height = 200
  const lens = { k1: -0.15, k2: 0.03 }
  const document = newDocument(width, height)
  const pixels = picture(width, height)
  const file = writePicture(width, height, pixels, { format: 'exr', bits: 32, encoding: 'linear', alpha: false })
  document.plate = { blob: 'a'.repeat(64), name: 'plate.exr', encoding: 'linear', alpha: 'none', width, height }
  document.lens = { ...lens, on: true }
  const evaluator = new Evaluator(pool, async () => file)
  const evaluated = async (show: Parameters<Evaluator['evaluate']>[0]['show']): Promise<Float32Array> => {
    const raster = await evaluator.evaluate({ document, frame: 1, shrink: 1, show })
    return pool.kernels.floats(raster.pointer, raster.width * raster.height * 4).slice()
  }

  it('is what cv2.remap gives with the same model (bicubic)', async () => {
    const straight = await evaluated({ kind: 'plate', straight: true })
    const theirs = python<number[]>(
      `
import sys, json, cv2, numpy as np
w, h, k1, k2 = json.loads(sys.argv[1])
y, x = np.mgrid[0:h, 0:w].astype(np.float64)
img = (0.3 + 0.2 * np.sin(x / 9) * np.cos(y / 11) + np.where(np.hypot(x - w * 0.3, y - h * 0.4) < 40, 0.3, 0)).astype(np.float32)
px = (x + 0.5 - w / 2) / (w / 2); py = (y + 0.5 - h / 2) / (w / 2); r2 = px * px + py * py; s = 1 + r2 * (k1 + r2 * k2)
out = cv2.remap(img, (px * s * w / 2 + w / 2 - 0.5).astype(np.float32), (py * s * w / 2 + h / 2 - 0.5).astype(np.float32), cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
print(json.dumps(out.reshape(-1).tolist()))`,
      JSON.stringify([width, height, lens.k1, lens.k2]),
    )
    let sum = 0
    let count = 0
    for (let y = 4; y < height - 4; y++)
      for (let x = 4; x < width - 4; x++) {
        sum += (straight[(y * width + x) * 4]! - theirs[y * width + x]!) ** 2
        count++
      }
    // OpenCV's cubic has a = -0.75 and its places are rounded to 1/32 pixel; ours has -0.5
    expect(10 * Math.log10(1 / (sum / count))).toBeGreaterThan(42)
  })
  it('gets the bend back in the finished picture: twice filtered, it stays itself to 38 dB, corners and all', async () => {
    const finished = await evaluated({ kind: 'finish' })
    let sum = 0
    let worst = 0
    for (let i = 0; i < width * height; i++) {
      const miss = finished[i * 4]! - pixels[i * 4]!
      sum += miss * miss
      worst = Math.max(worst, Math.abs(miss))
    }
    expect(10 * Math.log10(1 / (sum / width / height))).toBeGreaterThan(38)
    for (const [x, y] of [
      [1, 1],
      [width - 2, 1],
      [1, height - 2],
      [width - 2, height - 2],
    ] as const)
      expect(Math.abs(finished[(y * width + x) * 4]! - pixels[(y * width + x) * 4]!)).toBeLessThan(0.05)
    // The build is worked on with room for what the lens bends in
    const { left, top, width: w } = overscanOf(lens, document.frame)
    expect(left).toBeGreaterThan(10)
    expect([left % 4, top % 4, w]).toEqual([0, 0, width + 2 * left])
    expect(overscanOf({ k1: 0.1, k2: 0 }, document.frame)).toEqual({ width, height, left: 0, top: 0 })
  })
  it('a lens that is off changes nothing', async () => {
    document.lens = { ...lens, on: false }
    expect(await evaluated({ kind: 'finish' })).toEqual(pixels)
    document.lens = { ...lens, on: true }
  })
})

describe('the sun', () => {
  it('stands where Reda and Andreas (NREL/TP-560-34302, rev. 2008, appendix A.5, from memory) compute it: within 0.1 degree', () => {
    // 17 October 2003, 12:30:30, UTC-7, 39.742476 N 105.1786 W, 1830.14 m: zenith 50.11162, azimuth 194.34024
    const { azimuth, elevation } = sunInSky(39.742476, -105.1786, new Date('2003-10-17T19:30:30Z'), 1830.14)
    expect(Math.abs(azimuth - 194.34024)).toBeLessThan(0.1)
    expect(Math.abs(90 - elevation - 50.11162)).toBeLessThan(0.1)
  })
  it('stands at the height of the year’s turns: 90 degrees less latitude, plus and minus the obliquity of 23.44', () => {
    const noon = (date: string): number =>
      Math.max(
        ...Array.from(
          { length: 60 },
          (_, i) =>
            sunInSky(50, 0, new Date(`${date}T${i < 30 ? '11' : '12'}:${String((i % 30) * 2).padStart(2, '0')}:00Z`))
              .elevation,
        ),
      )
    expect(Math.abs(noon('2026-06-21') - 63.44)).toBeLessThan(0.1)
    expect(Math.abs(noon('2026-12-21') - 16.56)).toBeLessThan(0.15)
    expect(() => sunInSky(91, 0, new Date())).toThrow(/Latitude/)
    expect(() => sunInSky(0, 0, new Date('nothing'))).toThrow(/date/)
  })
  it('is read from a thing and the tip of its shadow', () => {
    const camera = cameraAt({ ...DEFAULT_CAMERA, y: 1.7, pitch: -8, heading: 12 }, 1)
    const aspect = 1.5
    for (const [azimuth, elevation] of [
      [35, 40],
      [-120, 12],
      [170, 65],
    ] as const) {
      const d = skyDirection(azimuth, elevation)
      const foot: [number, number, number] = [0.4, 0, -7]
      const tip: [number, number, number] = [foot[0] - (d[0] / d[1]) * 1.3, 0, foot[2] - (d[2] / d[1]) * 1.3]
      const found = sunFromShadow(
        camera,
        aspect,
        project(camera, aspect, foot),
        project(camera, aspect, [foot[0], 1.3, foot[2]]),
        project(camera, aspect, tip),
      )
      expect(Math.abs(((found.azimuth - azimuth + 540) % 360) - 180)).toBeLessThan(0.01)
      expect(found.elevation).toBeCloseTo(elevation, 3)
      expect(found.height).toBeCloseTo(1.3, 4)
    }
    const at = { u: 0.5, v: 0.8 }
    expect(() => sunFromShadow(camera, aspect, { u: 0.5, v: 0.1 }, at, at)).toThrow(/foot does not lie on the ground/)
    expect(() => sunFromShadow(camera, aspect, at, { u: 0.5, v: 0.9 }, { u: 0.6, v: 0.8 })).toThrow(/above the foot/)
    expect(() => sunFromShadow(camera, aspect, at, { u: 0.5, v: 0.5 }, at)).toThrow(/straight above/)
  })
})

describe('lamps by temperature', () => {
  // G. Wyszecki and W. S. Stiles, "Color Science" (1982), table 1(3.11), Planckian radiators, from memory
  it.each([
    [2000, 0.5267, 0.4133],
    [3000, 0.4369, 0.4041],
    [4000, 0.3805, 0.3768],
    [5000, 0.3451, 0.3516],
    [6500, 0.3135, 0.3237],
    [10000, 0.2807, 0.2884],
  ])('a black body of %d K', (kelvin, x, y) => {
    const [a, b] = planckianChromaticity(kelvin)
    expect(Math.abs(a - x)).toBeLessThan(0.001)
    expect(Math.abs(b - y)).toBeLessThan(0.001)
  })
  // CIE 15:2004, table 3: D50, D55, D65, D75 (their nominal temperatures times 1.4388/1.438)
  it.each([
    [5003, 0.34567, 0.3585],
    [5503, 0.33242, 0.34743],
    [6504, 0.31272, 0.32903],
    [7504, 0.29902, 0.31485],
  ])('daylight of %d K', (kelvin, x, y) => {
    const [a, b] = daylightChromaticity(kelvin)
    expect(Math.abs(a - x)).toBeLessThan(2e-4)
    expect(Math.abs(b - y)).toBeLessThan(2e-4)
  })
  it('tints lie off the locus by so much in the CIE 1960 diagram, green above', () => {
    const uv = ([x, y]: [number, number]): [number, number] => [
      (4 * x) / (-2 * x + 12 * y + 3),
      (6 * y) / (-2 * x + 12 * y + 3),
    ]
    for (const kelvin of [2400, 5600, 12000]) {
      const a = uv(planckianChromaticity(kelvin))
      const b = uv(offLocus(planckianChromaticity, kelvin, 0.01))
      const far = Math.hypot(a[0] - b[0], a[1] - b[1])
      expect(far).toBeCloseTo(0.01, 6)
      expect(b[1]).toBeGreaterThan(a[1])
      expect(kelvinToRgb(kelvin, 20)[1]).toBeGreaterThan(kelvinToRgb(kelvin)[1])
      expect(kelvinToRgb(kelvin, -20)[1]).toBeLessThan(kelvinToRgb(kelvin)[1])
    }
    expect(offLocus(planckianChromaticity, 3000, 0)).toEqual(planckianChromaticity(3000))
  })
})

it('lenses that bend back before the corners: what is beyond all that is seen is at the farthest place, never nowhere', () => {
  const frame = { width: 1200, height: 800 }
  for (let k1 = -1.9; k1 <= 1.9; k1 += 0.1)
    for (let k2 = -1.9; k2 <= 1.9; k2 += 0.1) {
      const lens = { k1, k2 }
      for (const place of [
        [0, 0],
        [600, 0],
        [0, 400],
        [1199, 12],
        [600.5, 400],
      ] as const) {
        const straight = straighten(lens, frame, place)
        expect(straight.every(Number.isFinite), `${k1} ${k2} ${place}`).toBe(true)
      }
      const { width, height } = overscanOf(lens, frame)
      expect(width * height).toBeGreaterThanOrEqual(1200 * 800)
      // Nearer the middle than the bend turns it is the very place
      const [x, y] = straighten(lens, frame, bend(lens, frame, [640, 380]))
      expect([x, y]).toEqual([expect.closeTo(640, 6), expect.closeTo(380, 6)])
    }
})
