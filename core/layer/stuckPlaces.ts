// Where on the frame that a drawing was placed on each pixel of this frame is seen, by the passes of both.
import { Kept } from '../engine/kept'
import { boxOf, heightOf, widthOf } from '../engine/box'
import { scriptNode, type Node } from '../plan/node'
import { boxOfSize } from '../plan/size'
import { coverageOf, unpacking, type PassFile } from '../render/openpasses'
import type { PassNodes } from '../render/passnodes'
import { xyz } from '../render/passes'
import { RestSurface, seenOn, type RestSeen } from '../stuck/surface'

/** Surfaces that are kept: those of two frames that are drawn on. */
const surfaces = new Kept<RestSurface>(2)

/** The numbers of a file's objects as another one has them, which lists `names`; those that it has not come after. */
function numbersIn(file: PassFile, names: readonly string[]): number[] {
  const same = new Map<string, number>(names.map((name, i) => [name, i + 1]))
  return file.objectNames.map((name, i) => same.get(name) ?? names.length + i + 1)
}
/** Which thing each pixel shows at its middle, 0 for none. Throws StillPacked. */
function thingsOf(file: PassFile, names: readonly string[]): Uint32Array {
  const ids = file.planes.get('object_id.I')
  const coverage = ids ? undefined : coverageOf(file, 'objects')
  const alpha = file.planes.get('A')
  const numbers = [0, ...numbersIn(file, names)]
  const out = new Uint32Array(file.width * file.height)
  for (let i = 0; i < out.length; i++) {
    const own = ids ? ids[i]! : coverage ? coverage.index[i * coverage.ranks]! : !alpha || alpha[i]! > 0 ? 1 : 0
    // Without names all that is there is one thing
    out[i] = numbers.length > 1 ? (numbers[own] ?? 0) : own
  }
  return out
}
/** Throws StillPacked. */
function restOf(file: PassFile, names: readonly string[]): RestSeen {
  const [x, y, z] = xyz('rest').map(name => file.planes.get(name)!) as [Float32Array, Float32Array, Float32Array]
  return { width: file.width, height: file.height, x, y, z, thing: thingsOf(file, names) }
}

/** What was found of a frame, of the two things of each pixel that cover most of it. */
const founds = new Kept<readonly [Float32Array, Float32Array]>(1)

/**
 * Of each pixel at the size that is worked at: x, y of the frame that the drawing was placed on, at that size, and how much of
 * the pixel shows what is seen there; for the thing that covers most of the pixel, and for the next at its border. Undefined
 * where the passes do not tell where things were at rest. Throws StillPacked.
 */
export function stuckPlaces(passes: PassNodes, there: PassNodes): readonly [Node, Node] | undefined {
  const { file } = passes
  if (![file, there.file].every(({ planes }) => xyz('rest').every(name => planes.has(name)))) return undefined
  const wants = async (): Promise<void> => {
    for (const one of [file, there.file])
      await unpacking(() => {
        for (const name of [...xyz('rest'), 'object_id.I', 'A']) one.planes.get(name)
        coverageOf(one, 'objects')
      })
  }
  const { width, height } = file
  const find = (): readonly [Float32Array, Float32Array] => {
    const names = there.file.objectNames
    const surface = surfaces.of(there.key, () => new RestSurface(restOf(there.file, names)))
    return covered(seenOn(surface, restOf(file, names)), file, names)
  }
  const of = (which: 0 | 1): Node => {
    const own = scriptNode(
      ['stuck', 1, passes.key, there.key, which],
      'colour',
      boxOf(width, height),
      (out, _, kernels) => {
        const found = founds.of(`${passes.key} ${there.key}`, find)[which]
        const across = widthOf(out)
        const to = kernels.floats(out.pointer, across * heightOf(out) * 4)
        for (let y = out.top; y < out.bottom; y++)
          to.set(found.subarray((y * width + out.left) * 4, (y * width + out.right) * 4), (y - out.top) * across * 4)
      },
      { wants },
    )
    return atWork(own, passes, there)
  }
  return [of(0), of(1)]
}

/**
 * How much of each pixel shows what was found: the share of the thing's cover. At the border of a thing, where the middle of the
 * pixel shows another, its places go on from the pixels beside.
 */
function covered(
  before: Float32Array,
  file: PassFile,
  names: readonly string[],
): readonly [Float32Array, Float32Array] {
  const coverage = coverageOf(file, 'objects')
  const { width, height } = file
  if (!coverage) return [before, new Float32Array(before.length)]
  const made = [new Float32Array(before.length), new Float32Array(before.length)] as const
  const numbers = numbersIn(file, names)
  const has = (x: number, y: number, thing: number): number => {
    const i = y * width + x
    return x >= 0 && y >= 0 && x < width && y < height && before[i * 4 + 3] === thing && before[i * 4 + 2] ? i : -1
  }
  const { ranks, index, weight } = coverage
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++)
      for (let rank = 0, which = 0; rank < ranks && which < 2; rank++) {
        const share = weight[i * ranks + rank]!
        if (!(share > 0)) break
        const thing = numbers[index[i * ranks + rank]! - 1] ?? 0
        const here = has(x, y, thing)
        const place =
          here < 0 ? goingOn(before, width, x, y, thing, has) : ([before[here * 4]!, before[here * 4 + 1]!] as const)
        if (place) made[which++]!.set([place[0], place[1], share, thing], i * 4)
      }
  return made
}
const AROUND = [
  [-1, 0],
  [1, 0],
  [0, -1],
  [0, 1],
  [-1, -1],
  [1, -1],
  [-1, 1],
  [1, 1],
] as const
/** Places of a thing as they go on beyond its border, from the pixel beside and the one behind that. */
function goingOn(
  found: Float32Array,
  width: number,
  x: number,
  y: number,
  thing: number,
  has: (x: number, y: number, thing: number) => number,
): [number, number] | undefined {
  for (const [dx, dy] of AROUND) {
    const beside = has(x + dx, y + dy, thing)
    if (beside < 0) continue
    const behind = has(x + 2 * dx, y + 2 * dy, thing)
    const at = (c: 0 | 1): number => found[beside * 4 + c]!
    return behind < 0 ? [at(0) - dx, at(1) - dy] : [2 * at(0) - found[behind * 4]!, 2 * at(1) - found[behind * 4 + 1]!]
  }
  return undefined
}

/** Places of a file brought to the pixels that are worked at: between those of one thing, straight. */
function atWork(own: Node, passes: PassNodes, there: PassNodes): Node {
  const { size, file } = passes
  const { scaleX, offsetX, scaleY, offsetY } = passes.map
  const placed = there.map
  return scriptNode(
    ['stuck at', 1, scaleX, offsetX, scaleY, offsetY, placed],
    'colour',
    boxOfSize(size),
    (out, [source], kernels) => {
      const across = widthOf(out)
      const to = kernels.floats(out.pointer, across * heightOf(out) * 4)
      const from = kernels.floats(source!.pointer, file.width * file.height * 4)
      const inside = (at: number, side: number): number => Math.min(side - 1, Math.max(0, at))
      for (let y = out.top, at = 0; y < out.bottom; y++) {
        const fy = (y + 0.5) * scaleY + offsetY - 0.5
        const [top, t] = [Math.floor(fy), fy - Math.floor(fy)]
        for (let x = out.left; x < out.right; x++, at += 4) {
          const fx = (x + 0.5) * scaleX + offsetX - 0.5
          const [left, s] = [Math.floor(fx), fx - Math.floor(fx)]
          const nearest = inside(Math.round(fy), file.height) * file.width + inside(Math.round(fx), file.width)
          const thing = from[nearest * 4 + 3]!
          let [px, py, seen, sum] = [0, 0, 0, 0]
          for (let j = 0; j < 2; j++)
            for (let i = 0; i < 2; i++) {
              const weight = (i ? s : 1 - s) * (j ? t : 1 - t)
              const k = (inside(top + j, file.height) * file.width + inside(left + i, file.width)) * 4
              const share = from[k + 2]!
              seen += weight * share
              if (!(share > 0) || !(weight > 0) || (from[k + 3] !== thing && from[nearest * 4 + 2]! > 0)) continue
              px += weight * from[k]!
              py += weight * from[k + 1]!
              sum += weight
            }
          to[at] = sum > 0 ? (px / sum - placed.offsetX) / placed.scaleX : 0
          to[at + 1] = sum > 0 ? (py / sum - placed.offsetY) / placed.scaleY : 0
          to[at + 2] = sum > 0 ? seen : 0
          to[at + 3] = 1
        }
      }
    },
    { inputs: [own], needs: () => own.window },
  )
}
