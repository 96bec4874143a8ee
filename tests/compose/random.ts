// Pictures made at random from nodes of every kind, for tests that say one thing of all of them; and what each is in
// plain double precision, pixel by pixel, by the definitions (W3C compositing for over, ASC CDL 1.2, ITU-R BT.709-6 for
// luminance), written apart from the kernels.
import { boxOf, widthOf, type Box } from '../../core/engine/box'
import { kernelNode, scriptNode, type Node } from '../../core/plan/node'
import { Cdl } from '../../core/treatment/cdl'
import { Gain } from '../../core/treatment/exposure'
import { LevelsBent } from '../../core/treatment/levels'
import { Saturation } from '../../core/treatment/saturation'
import { Blend, Mix, MultiplyRatio, Place, Shift, AddLight } from '../../kernels/records'

export const WIDTH = 61
export const HEIGHT = 97
export const WINDOW = boxOf(WIDTH, HEIGHT)

type Pixel = [number, number, number, number]
type Reference = (x: number, y: number) => Pixel
export interface Made {
  node: Node
  /** What it is at a pixel; nothing beyond its window. */
  at: Reference
}

/** Numbers in 0..1 from a seed (mulberry32, in the public domain). */
export function randomFrom(seed: number): () => number {
  let state = seed
  return () => {
    state = (state + 0x6d2b79f5) | 0
    let t = Math.imul(state ^ (state >>> 15), 1 | state)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
}

const inside = ({ left, top, right, bottom }: Box, x: number, y: number): boolean =>
  x >= left && x < right && y >= top && y < bottom
const windowed = ({ node, at }: Made): Reference => {
  const known = new Map<number, Pixel>()
  return (x, y) => {
    if (!inside(node.window, x, y)) return [0, 0, 0, 0]
    const key = y * 10000 + x
    if (!known.has(key)) known.set(key, at(x, y))
    return known.get(key)!
  }
}
const each = (pixel: Pixel, f: (value: number, c: number) => number): Pixel => [
  f(pixel[0], 0),
  f(pixel[1], 1),
  f(pixel[2], 2),
  pixel[3],
]
const luminance = ([r, g, b]: Pixel): number => r * 0.2126 + g * 0.7152 + b * 0.0722

/** A file of noise, of an area of its own. */
function leaf(seed: number, window: Box, opaque: boolean): Made {
  const at: Reference = (x, y) => {
    const random = randomFrom(seed * 7919 + y * 1009 + x)
    const alpha = opaque ? 1 : Math.fround(random() < 0.3 ? 0 : random())
    return [0, 1, 2, 3].map(c => (c === 3 ? alpha : Math.fround(random() * 2 * alpha))) as Pixel
  }
  return {
    node: scriptNode(['noise', seed, opaque], 'colour', window, (out, _, kernels) => {
      const data = kernels.floats(out.pointer, widthOf(out) * (out.bottom - out.top) * 4)
      let to = 0
      for (let y = out.top; y < out.bottom; y++)
        for (let x = out.left; x < out.right; x++, to += 4) data.set(at(x, y), to)
    }),
    at,
  }
}

/** A tree of so many levels. */
export function randomTree(random: () => number, depth: number): Made {
  const pick = (count: number): number => Math.floor(random() * count)
  const child = (): Made => randomTree(random, depth - 1)
  if (depth <= 0) {
    if (random() < 0.5) return leaf(pick(1e6), WINDOW, random() < 0.5)
    const left = pick(WIDTH - 8)
    const top = pick(HEIGHT - 8)
    return leaf(
      pick(1e6),
      { left, top, right: left + 4 + pick(WIDTH - left - 4), bottom: top + 4 + pick(HEIGHT - top - 4) },
      false,
    )
  }
  const kind = pick(9)
  const input = child()
  const from = windowed(input)
  const { node: source } = input
  const { window } = source
  const point = { source, strength: 1, straight: 0 }
  const whole = (): { node: Node; from: Reference } => {
    const made = leaf(pick(1e6), WINDOW, true)
    return { node: made.node, from: windowed(made) }
  }
  switch (kind) {
    case 0: {
      const gain = Math.fround(0.5 + random())
      return {
        node: kernelNode(Gain, { ...point, gain: [gain, 1, 1 / gain] }, { window }),
        at: (x, y) => each(from(x, y), (value, c) => value * [gain, 1, 1 / gain][c]!),
      }
    }
    case 1: {
      const amount = Math.fround(random() * 2)
      return {
        node: kernelNode(Saturation, { ...point, amount }, { window }),
        at: (x, y) => {
          const pixel = from(x, y)
          const grey = luminance(pixel)
          return each(pixel, value => grey + (value - grey) * amount)
        },
      }
    }
    case 2: {
      const strength = Math.fround(random())
      // Its matte may end within the picture: there is nothing of it beyond
      const [left, top] = [pick(20), pick(20)]
      const box = { left, top, right: left + 20, bottom: top + 15 }
      const share = (x: number, y: number): number => (inside(box, x, y) ? Math.fround(((x * 7 + y * 3) % 10) / 10) : 0)
      const matte = scriptNode(['matte', left, top], 'single', box, (out, _, kernels) => {
        const data = kernels.floats(out.pointer, widthOf(out) * (out.bottom - out.top))
        let to = 0
        for (let y = out.top; y < out.bottom; y++) for (let x = out.left; x < out.right; x++) data[to++] = share(x, y)
      })
      return {
        node: kernelNode(
          LevelsBent,
          { source, matte, strength, straight: 1, low: 0.1, scale: 1.25, power: 0.7, outLow: 0.02, outSpan: 1.1 },
          { window },
        ),
        at: (x, y) => {
          const pixel = from(x, y)
          const alpha = pixel[3]
          return each(pixel, value => {
            if (alpha <= 0) return value
            const t = (value / alpha - 0.1) * 1.25
            const after = (0.02 + (t > 0 ? t ** 0.7 : t) * 1.1) * alpha
            return value + (after - value) * strength * share(x, y)
          })
        },
      }
    }
    case 3: {
      const slope = [1.2, 0.9, 1] as const
      const offset = [0.02, -0.01, 0] as const
      const power = [1.1, 0.8, 1] as const
      return {
        node: kernelNode(Cdl, { ...point, slope, offset, power, saturation: 0.7 }, { window }),
        at: (x, y) => {
          const raised = each(from(x, y), (value, c) => {
            const linear = value * slope[c]! + offset[c]!
            return linear > 0 ? linear ** power[c]! : linear
          })
          const grey = luminance(raised)
          return each(raised, value => grey + (value - grey) * 0.7)
        },
      }
    }
    case 4: {
      const other = child()
      const over = windowed(other)
      const backdrop = whole()
      const opacity = Math.fround(random())
      const base = kernelNode(
        Blend,
        { backdrop: backdrop.node, source, mode: 0, opacity: 1 },
        { window: WINDOW, only: { where: 'source', elsewhere: 'backdrop' } },
      )
      const laid = (below: Pixel, above: Pixel, share: number): Pixel =>
        below.map((value, c) => above[c]! * share + value * (1 - above[3] * share)) as Pixel
      return {
        node: kernelNode(
          Blend,
          { backdrop: base, source: other.node, mode: 0, opacity },
          { window: WINDOW, only: { where: 'source', elsewhere: 'backdrop' } },
        ),
        at: (x, y) => laid(laid(backdrop.from(x, y), from(x, y), 1), over(x, y), opacity),
      }
    }
    case 5: {
      const other = child()
      const second = windowed(other)
      const share = Math.fround(random())
      return {
        node: kernelNode(Mix, { first: source, second: other.node, share }, { window: WINDOW }),
        at: (x, y) => {
          const a = from(x, y)
          const b = second(x, y)
          return a.map((value, c) => value + (b[c]! - value) * share) as Pixel
        },
      }
    }
    case 6: {
      const dx = pick(9) - 4
      const dy = pick(9) - 4
      const moved = {
        left: window.left - dx,
        top: window.top - dy,
        right: window.right - dx,
        bottom: window.bottom - dy,
      }
      return {
        node: kernelNode(
          Shift,
          { source, dx, dy },
          {
            window: moved,
            needs: b => ({ left: b.left + dx, top: b.top + dy, right: b.right + dx, bottom: b.bottom + dy }),
          },
        ),
        at: (x, y) => from(x + dx, y + dy),
      }
    }
    case 7: {
      // By half a pixel each way: the mean of four
      return {
        node: kernelNode(
          Place,
          { source, a: 1, b: 0, c: 0.5, d: 0, e: 1, f: 0.5, edge: 0 },
          { window: WINDOW, needs: b => ({ left: b.left, top: b.top, right: b.right + 1, bottom: b.bottom + 1 }) },
        ),
        at: (x, y) => {
          const four = [from(x, y), from(x + 1, y), from(x, y + 1), from(x + 1, y + 1)]
          return [0, 1, 2, 3].map(c => four.reduce((sum, pixel) => sum + pixel[c]!, 0) / 4) as Pixel
        },
      }
    }
    default: {
      const ratio = whole()
      const light = whole()
      const lit = kernelNode(AddLight, { source, light: light.node, amount: 0.5 }, { window })
      return {
        node: kernelNode(MultiplyRatio, { source: lit, ratio: ratio.node, strength: 0.5 }, { window }),
        at: (x, y) => {
          const pixel = from(x, y)
          const added = light.from(x, y)
          const times = ratio.from(x, y)
          return each(pixel, (value, c) => {
            const sum = Math.max(Math.min(value, 0), value + added[c]! * 0.5)
            return sum * (1 + (times[c]! - 1) * 0.5)
          })
        },
      }
    }
  }
}
