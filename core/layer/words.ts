import { common, isEmpty, type Box } from '../engine/box'
import { Kept } from '../engine/kept'
import { filledNode } from '../matte/drawn/node'
import type { Line } from '../matte/drawn/contour'
import { kernelNode, type Node } from '../plan/node'
import { cutTo } from '../plan/picture'
import { boxOfSize, fullSize } from '../plan/size'
import { Wash } from '../../kernels/records'
import type { Baseline } from '../words/baseline'
import { flattenedBy } from '../words/flatten'
import type { Outline } from '../words/outline'
import { typeset } from '../words/typeset'
import { broughtAlong, broughtOnGround } from './brought'
import { BEFORE, carriedBy, inverted } from './card'
import { flat, layerKind, type LayerInput, type Shown } from './layer'
import { inPlane } from './inPlane'
import { isAskew, isOnPicture, metresOfWords, nearnessOf, seenSmaller, seenWords } from './wordsPlace'
import { wordsHandles } from './wordsHandles'
import { WORDS_VALUES, type WordsValues } from './wordsValues'

/** Pixels that straight pieces may be off an outline. */
const TOLERANCE = 0.002

export const words = layerKind({
  id: 'words',
  label: 'Words',
  help: 'Words in a font, on the picture or in the scene: toward the camera, on a wall, on the ground; what is nearer covers them.',
  sentence: [
    'stand {put}[ at {across} {down}][, {away} away][ at {x} {y} {z}][, turned {turn}][, before what is within {close}], letters[ {letters}][ {size}] tall, leaning {lean}',
    'set at {weight}, letters {tracking} apart, lines {line_height}, {align}, {runs}[ bent {bend}][ by {first_x} {first_y}, {second_x} {second_y} to {end_x} {end_y}]',
    'in {colour}, brighter by {bright}',
  ].join('\n'),
  values: WORDS_VALUES,
  stands: 'amid',
  behindNames: true,
  holds: 'words',
  standing: {
    metres: metresOfWords,
    brought: (values, camera, metres) => {
      if (isOnPicture(values)) return { away: metres }
      const { x, y, z, put } = values
      return put === 'on the ground'
        ? broughtOnGround([x, y, z], camera, metres)
        : broughtAlong([x, y, z], camera, metres)
    },
  },
  handles: wordsHandles,
  plan(input, values) {
    const metres = metresOfWords(values, input.camera())
    const outline = outlineOf(input, values)
    // In a plane that goes on behind the camera what is before it is seen
    if (!outline.length || (!isAskew(values) && !(metres > BEFORE))) return undefined
    const { size } = input
    const seen = seenAt(input, values, input.frame)
    const told = `${keyOf(input, values)} ${seen.join(' ')}`
    const line = lines.of(told, () => flattenedBy(outline, seen, TOLERANCE))
    const window = common(boxOfSize(size), boundsOf(line))
    if (isEmpty(window)) return undefined
    const gain = 2 ** values.bright
    const [red, green, blue] = values.colour.map(part => Math.max(0, part) * gain) as [number, number, number]
    const colour = cutTo(
      kernelNode(Wash, { colour: [red, green, blue, 1] }, { window }),
      filledNode(line, window, told),
    )
    return { ...standing(input, values, colour, metres), motion: motionOf(input, values, seen, window) }
  },
})

const outlines = new Kept<Outline>(32)
const lines = new Kept<Line>(64)
/** What their outlines depend on. */
const keyOf = (input: LayerInput, values: WordsValues): string => {
  const { weight, tracking, line_height, align } = values
  return JSON.stringify([input.words()?.key, weight, tracking, line_height, align, baselineOf(values)])
}
function outlineOf(input: LayerInput, values: WordsValues): Outline {
  const held = input.words()
  if (!held) return []
  const { weight, tracking, line_height: lineHeight, align } = values
  return outlines.of(keyOf(input, values), () =>
    typeset(held.text, held.fonts, { weight, tracking, lineHeight, align, baseline: baselineOf(values) }),
  )
}
function baselineOf(values: WordsValues): Baseline {
  if (values.runs === 'along an arc') return { runs: 'arc', bend: values.bend }
  if (values.runs === 'straight') return { runs: 'straight' }
  const { first_x, first_y, second_x, second_y, end_x, end_y } = values
  return { runs: 'curve', places: [first_x, first_y, second_x, second_y, end_x, end_y] }
}

/** Their places to pixels of the size worked at. */
function seenAt({ size, camera }: LayerInput, values: WordsValues, frame: number): number[] {
  return seenSmaller(seenWords(values, camera(frame), fullSize(size), size.left, size.top), size.shrink)
}

function boundsOf({ ends }: Line): Box {
  const box = { left: Infinity, top: Infinity, right: -Infinity, bottom: -Infinity }
  for (let i = 0; i < ends.length; i += 2) {
    box.left = Math.min(box.left, ends[i]!)
    box.right = Math.max(box.right, ends[i]!)
    box.top = Math.min(box.top, ends[i + 1]!)
    box.bottom = Math.max(box.bottom, ends[i + 1]!)
  }
  return {
    left: Math.floor(box.left),
    top: Math.floor(box.top),
    right: Math.ceil(box.right),
    bottom: Math.ceil(box.bottom),
  }
}

/** At one distance, or at that of their plane pixel by pixel. */
function standing(input: LayerInput, values: WordsValues, colour: Node, metres: number): Shown {
  const { size } = input
  const near = isAskew(values) ? nearnessOf(values, input.camera(), fullSize(size)) : undefined
  return near ? inPlane(colour, near, values.close, size) : flat(colour, metres, size)
}

/** Where their pixels go by the keys of the layer and those of the camera; undefined where they stay. */
function motionOf(input: LayerInput, values: WordsValues, now: readonly number[], window: Box): Shown['motion'] {
  const own = inverted(now)
  if (!own) return undefined
  const at = (by: number): readonly number[] => {
    const there = input.valuesAt(input.frame + by) as unknown as WordsValues
    return inverted(seenAt(input, there, input.frame + by)) ?? own
  }
  return carriedBy(own, at(1), at(-1), window)
}
