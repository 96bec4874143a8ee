// Mattes that are told by values, made over a small picture with depth and passes.
import { afterAll, beforeAll } from 'vitest'
import { matteNode, type MatteBy } from '../core/compose/mattes'
import type { Node } from '../core/plan/node'
import { boxOf, type Box } from '../core/engine/box'
import { matteKindOf } from '../core/matte/registry'
import { Runner } from '../core/plan/runner'
import { sized } from '../core/plan/size'
import { PASSES } from '../core/render/passes'
import type { PassNodes } from '../core/render/passnodes'
import type { MatteTerm, PictureReference, Slip } from '../core/shot/document'
import { slipOf, valuedTerm } from '../core/shot/slip'
import { startEngine, type Engine } from '../host/engine'
import { matteLine } from '../cli/lines'
import { given } from './compose/treat'
import { randomFrom } from './compose/random'

let engine: Engine
/** Runs them in this file. */
export function useMattes(): void {
  beforeAll(async () => {
    engine = await startEngine(2)
  })
  afterAll(() => engine.stop())
}

export const [WIDTH, HEIGHT] = [40, 24]
export interface Setup {
  pixels?: number[]
  depth?: number[]
  /** Planes by their names, one float a pixel. */
  planes?: Record<string, number[]>
  area?: Box
  left?: number
  shrink?: 1 | 2
  /** What comes to the slip at another frame. */
  there?: (frame: number) => number[]
}
export async function held(
  term: MatteTerm | Slip,
  {
    pixels = PIXELS,
    depth = DEPTH,
    planes = {},
    area,
    left = 0,
    shrink = 1,
    there = frame => OTHERS.map((value, i) => (i % 4 === 3 ? value : Math.fround(value * frame))),
  }: Setup = {},
): Promise<number[]> {
  const metres = given(depth, WIDTH, 'single')
  const plain = (channels: readonly string[]) => {
    if (!channels.every(name => planes[name])) return undefined
    return channels.length === 1
      ? given(planes[channels[0]!]!, WIDTH, 'single')
      : given(
          planes[channels[0]!]!.flatMap((_, i) => [...[0, 1, 2].map(c => planes[channels[c]!]![i]!), 1]),
          WIDTH,
        )
  }
  const by = (frame: number): MatteBy => ({
    frame,
    size: { ...sized({ width: WIDTH * shrink, height: HEIGHT * shrink, left: 0, top: 0 }, shrink), left },
    passes: { plain, places: () => plain(channelsOf('position')) } as unknown as PassNodes,
    relative: false,
    mattes: {},
    taken: ({ name }) => (name === OTHER.name ? given(OTHERS, WIDTH) : undefined),
    there: other => ({
      picture: { colour: given(there(other), WIDTH), depth: () => metres, byDepth: say => say(metres) },
      by: by(other),
    }),
  })
  const picture = {
    colour: given(pixels, WIDTH),
    depth: () => metres,
    byDepth: (say: (depth: Node) => Node) => say(metres),
  }
  const node = matteNode('terms' in term ? term : slipOf(term), picture, by(1))
  if (!node || node === 'everywhere') throw new Error(`There is no such matte: ${node}.`)
  const runner = new Runner(engine.pool, 2 ** 26)
  const box = area ?? boxOf(WIDTH, HEIGHT)
  const { pointer } = await runner.run(node, box)
  const out = [...engine.kernels.floats(pointer, (box.right - box.left) * (box.bottom - box.top))]
  runner.clear()
  return out
}
export const random = randomFrom(31)
export const COUNT = WIDTH * HEIGHT
export const PIXELS = Array.from({ length: COUNT }, () => {
  const alpha = random() < 0.7 ? 1 : random()
  return [random() * alpha, random() ** 2 * 3 * alpha, random() * alpha, alpha]
}).flat()
export const DEPTH = Array.from({ length: COUNT }, () => random() * 30)
/** A picture of a line's own. */
export const OTHER = { name: 'clean plate' } as PictureReference
export const OTHERS = PIXELS.map((value, i) => Math.fround(i % 4 === 3 ? value : value * (0.4 + 1.2 * random())))
export const plane = (make: () => number): number[] => Array.from({ length: COUNT }, () => Math.fround(make()))
export const PLANES = {
  'facing.V': plane(random),
  'occlusion.V': plane(random),
  'normal.X': plane(() => random() * 2 - 1),
  'normal.Y': plane(() => random() * 2 - 1),
  'normal.Z': plane(() => random() * 2 - 1),
}
export const channelsOf = (id: string): readonly string[] => PASSES.find(pass => pass.id === id)!.channels
/** The planes under the names that the passes have them by. */
export const planes = (): Record<string, number[]> => ({
  [channelsOf('facing')[0]!]: PLANES['facing.V'],
  [channelsOf('occlusion')[0]!]: PLANES['occlusion.V'],
  ...Object.fromEntries(
    channelsOf('position').map((name, c) => [name, Object.values(PLANES)[2 + c]!.map(value => value * 9)]),
  ),
  ...Object.fromEntries(channelsOf('normal').map((name, c) => [name, Object.values(PLANES)[2 + c]!])),
})
/** Something drawn in so small a frame. */
const DRAWN: Record<string, string> = {
  shape: 'shape points=4,3:30,5:33,20:9,18 outer=3 inner=2',
  brush: 'brush points=5,5:20,18:34,6 size=9 hardness=0.4 flow=0.9',
}
export const term = (kind: string, values: Record<string, number | number[] | string>, invert = false): MatteTerm => {
  if (DRAWN[kind]) return { ...matteLine(DRAWN[kind]), invert }
  return { ...valued(kind, values), invert }
}
const valued = (kind: string, values: Record<string, number | number[] | string>): MatteTerm => ({
  ...valuedTerm(kind),
  values: { ...valuedTerm(kind).values, ...values },
  ...(matteKindOf(kind).pictured ? { picture: OTHER } : {}),
})
