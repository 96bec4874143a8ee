// Three hard pictures to key, made so that the truth is known: every pixel is averaged over many places in it, each of
// which shows either a thing or the screen behind it. Then they get the grain of a camera.
import { randomFrom } from './compose/random'

export interface KeyCase {
  width: number
  height: number
  /** Scene-linear, four floats a pixel. */
  picture: Float32Array
  alpha: Float32Array
  /** The thing's own colour without the light of the screen, premultiplied: three floats a pixel. */
  thing: Float32Array
  /** A place that shows nothing but the screen. */
  click: [number, number]
}
type Three = [number, number, number]
const [WIDTH, HEIGHT] = [320, 200]
const TIMES = 6

/** Colour there of what stands before the screen, and the screen's light on it; undefined where the screen is seen. */
type Seen = (x: number, y: number) => { own: Three; spill: number } | undefined
function made(
  seed: number,
  seen: Seen,
  screen: (x: number, y: number) => Three,
  click: [number, number],
  grain: number,
  blur?: (times: number) => readonly [number, number, number][],
): KeyCase {
  const random = randomFrom(seed)
  const normal = (): number => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random())
  const picture = new Float32Array(WIDTH * HEIGHT * 4)
  const alpha = new Float32Array(WIDTH * HEIGHT)
  const thing = new Float32Array(WIDTH * HEIGHT * 3)
  const places =
    blur?.(TIMES) ??
    Array.from({ length: TIMES * TIMES }, (_, i): [number, number, number] => [
      ((i % TIMES) + 0.5) / TIMES,
      (Math.floor(i / TIMES) + 0.5) / TIMES,
      1,
    ])
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const behind = screen(x, y)
      const sum: Three = [0, 0, 0]
      const own: Three = [0, 0, 0]
      let covered = 0
      let all = 0
      for (const [dx, dy, weight] of places) {
        all += weight
        const there = seen(x + dx, y + dy)
        if (there) covered += weight
        for (let c = 0; c < 3; c++) {
          sum[c]! += weight * (there ? there.own[c]! + there.spill * behind[c]! : behind[c]!)
          if (there) own[c]! += weight * there.own[c]!
        }
      }
      const i = y * WIDTH + x
      alpha[i] = covered / all
      for (let c = 0; c < 3; c++) {
        const value = sum[c]! / all
        // Grain as of a sensor: of the light's root, and some of its own
        const fleck = grain * normal() * Math.sqrt(value * 0.3 + 0.002)
        picture[i * 4 + c] = Math.fround(value + fleck)
        // The grain on the thing is the thing's
        thing[i * 3 + c] = own[c]! / all + fleck * alpha[i]!
      }
      picture[i * 4 + 3] = 1
    }
  return { width: WIDTH, height: HEIGHT, picture, alpha, thing, click }
}

/** A head with strands as fine as a third of a pixel, before a green screen that is lit unevenly and shines on them. */
export function hair(): KeyCase {
  const random = randomFrom(5)
  const strands = Array.from({ length: 110 }, () => {
    const angle = -Math.PI * (0.05 + 0.9 * random())
    const long = 25 + random() * 55
    return { angle, long, bend: (random() - 0.5) * 1.6, wide: 0.3 + random() * 0.9, tone: 0.7 + random() * 0.7 }
  })
  // The strands as short pieces, in a grid so that a place asks only those near it
  const pieces = new Map<number, { ax: number; ay: number; bx: number; by: number; wide: number; tone: number }[]>()
  for (const { angle, long, bend, wide, tone } of strands) {
    let [x, y] = [160 + Math.cos(angle) * 44, 128 + Math.sin(angle) * 54]
    let way = angle
    for (let t = 0; t < long; t += 2) {
      const [nx, ny] = [x + Math.cos(way) * 2, y + Math.sin(way) * 2]
      const piece = { ax: x, ay: y, bx: nx, by: ny, wide: wide * (1 - (0.6 * t) / long), tone }
      for (let gy = Math.floor((Math.min(y, ny) - 2) / 4); gy <= Math.floor((Math.max(y, ny) + 2) / 4); gy++)
        for (let gx = Math.floor((Math.min(x, nx) - 2) / 4); gx <= Math.floor((Math.max(x, nx) + 2) / 4); gx++) {
          const cell = gy * 1000 + gx
          if (!pieces.has(cell)) pieces.set(cell, [])
          pieces.get(cell)!.push(piece)
        }
      way += (bend * 2) / long
      ;[x, y] = [nx, ny]
    }
  }
  const colour: Three = [0.16, 0.1, 0.06]
  const seen: Seen = (x, y) => {
    const inside = ((x - 160) / 46) ** 2 + ((y - 130) / 56) ** 2
    if (inside < 1 || (y > 150 && Math.abs(x - 160) < 30 + (y - 150) * 1.6)) {
      const shade = 0.75 + 0.25 * Math.sin(x * 0.35 + Math.sin(y * 0.1) * 2)
      return { own: colour.map(value => value * shade) as Three, spill: inside > 0.85 ? 0.02 : 0.005 }
    }
    for (const { ax, ay, bx, by, wide, tone } of pieces.get(Math.floor(y / 4) * 1000 + Math.floor(x / 4)) ?? []) {
      const [dx, dy] = [bx - ax, by - ay]
      const t = Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy)))
      if (Math.hypot(x - ax - dx * t, y - ay - dy * t) < wide / 2)
        return { own: colour.map(value => value * tone) as Three, spill: 0.04 }
    }
    return undefined
  }
  const screen = (x: number, y: number): Three => {
    const light = 0.75 + 0.35 * Math.exp(-((x - 240) ** 2 + (y - 40) ** 2) / 9000) - 0.15 * (y / HEIGHT)
    return [0.045 * light, 0.42 * light, 0.075 * light]
  }
  return made(11, seen, screen, [30, 30], 0.02)
}

/** Branches and leaves before a bright sky that goes from blue to a white glare. */
export function branches(): KeyCase {
  const random = randomFrom(9)
  const lines: { ax: number; ay: number; bx: number; by: number; wide: number }[] = []
  const grow = (x: number, y: number, way: number, long: number, wide: number): void => {
    if (wide < 0.25) return
    const [bx, by] = [x + Math.cos(way) * long, y + Math.sin(way) * long]
    lines.push({ ax: x, ay: y, bx, by, wide })
    const many = wide > 2 ? 3 : 2
    for (let i = 0; i < many; i++)
      grow(bx, by, way + (random() - 0.5) * 1.5, long * (0.68 + random() * 0.25), wide * 0.62)
  }
  grow(-5, 210, -0.95, 60, 13)
  grow(330, 180, -2.5, 55, 10)
  const leaves = Array.from({ length: 420 }, () => {
    const line = lines[Math.floor(lines.length * (0.3 + 0.7 * random()))]!
    return {
      x: line.bx + (random() - 0.5) * 12,
      y: line.by + (random() - 0.5) * 12,
      r: 0.7 + random() * 2.6,
      squeeze: 0.4 + random() * 0.6,
      turn: random() * 3.2,
      tone: 0.5 + random(),
    }
  })
  const cells = new Map<number, { lines: typeof lines; leaves: typeof leaves }>()
  const at = (cx: number, cy: number) => {
    const cell = cy * 1000 + cx
    if (!cells.has(cell)) cells.set(cell, { lines: [], leaves: [] })
    return cells.get(cell)!
  }
  const into = (x0: number, y0: number, x1: number, y1: number, put: (cell: ReturnType<typeof at>) => void): void => {
    for (let cy = Math.floor(y0 / 8); cy <= Math.floor(y1 / 8); cy++)
      for (let cx = Math.floor(x0 / 8); cx <= Math.floor(x1 / 8); cx++) put(at(cx, cy))
  }
  for (const line of lines)
    into(
      Math.min(line.ax, line.bx) - line.wide,
      Math.min(line.ay, line.by) - line.wide,
      Math.max(line.ax, line.bx) + line.wide,
      Math.max(line.ay, line.by) + line.wide,
      cell => cell.lines.push(line),
    )
  for (const leaf of leaves)
    into(leaf.x - leaf.r, leaf.y - leaf.r, leaf.x + leaf.r, leaf.y + leaf.r, cell => cell.leaves.push(leaf))
  const seen: Seen = (x, y) => {
    const cell = cells.get(Math.floor(y / 8) * 1000 + Math.floor(x / 8))
    if (!cell) return undefined
    for (const { x: lx, y: ly, r, squeeze, turn, tone } of cell.leaves) {
      const [c, s] = [Math.cos(turn), Math.sin(turn)]
      const [u, v] = [(x - lx) * c + (y - ly) * s, (-(x - lx) * s + (y - ly) * c) / squeeze]
      if (u * u + v * v < r * r) return { own: [0.06 * tone, 0.1 * tone, 0.04 * tone], spill: 0 }
    }
    for (const { ax, ay, bx, by, wide } of cell.lines) {
      const [dx, dy] = [bx - ax, by - ay]
      const t = Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy)))
      if (Math.hypot(x - ax - dx * t, y - ay - dy * t) < wide / 2) return { own: [0.06, 0.055, 0.05], spill: 0 }
    }
    return undefined
  }
  const screen = (x: number, y: number): Three => {
    const glare = Math.exp(-((x - 220) ** 2 + (y - 130) ** 2) / 12000)
    const down = y / HEIGHT
    return [0.55 + 0.5 * down + 1.6 * glare, 0.75 + 0.35 * down + 1.4 * glare, 1.15 + 0.05 * down + 1.05 * glare]
  }
  return made(12, seen, screen, [290, 110], 0.02)
}

/** A thing of two colours that is out of focus and moves fast, before a blue screen. */
export function blurred(): KeyCase {
  const seen: Seen = (x, y) => {
    const [u, v] = [(x - 150) / 70, (y - 105) / 55]
    const r = Math.hypot(u, v) + 0.12 * Math.sin(Math.atan2(v, u) * 5)
    if (r >= 1) return undefined
    const warm = Math.sin(x * 0.05) + Math.cos(y * 0.07) > 0
    return { own: warm ? [0.5, 0.27, 0.16] : [0.3, 0.3, 0.28], spill: 0.01 }
  }
  const screen = (x: number, y: number): Three => {
    const light = 0.8 + 0.25 * (x / WIDTH) - 0.1 * (y / HEIGHT)
    return [0.03 * light, 0.09 * light, 0.5 * light]
  }
  // A lens's disc of 6 pixels, drawn along 24
  const blur = (): readonly [number, number, number][] => {
    const random = randomFrom(3)
    return Array.from({ length: 240 }, (_, i) => {
      const [r, a] = [6 * Math.sqrt((i + random()) / 240), i * 2.39996]
      return [0.5 + Math.cos(a) * r + (random() - 0.5) * 24, 0.5 + Math.sin(a) * r, 1]
    })
  }
  return made(13, seen, screen, [20, 20], 0.02, blur)
}
