import { value } from '../../declare/field'
import { heightOf, widthOf } from '../../engine/box'
import { scriptNode, type Node } from '../../plan/node'
import { refiner, type Refiner } from './refiner'
import { smallRegions, type RegionsOf } from './regions'

const ENOUGH = 0.05
const size = (help: string, first: number): ReturnType<typeof value> =>
  value(0, 2000, { label: 'smaller than', help, unit: 'px', pixels: 'size', step: 0.5, digits: 1, neutral: 0, first })

/** A matte in which small regions are set to a value. across: they are no larger than a disc of that. */
function without(matte: Node, across: number, regions: RegionsOf, to: number, border: boolean, name: string): Node {
  const { window } = matte
  const most = (Math.PI / 4) * across ** 2
  if (most < 1) return matte
  return scriptNode(
    [name, across],
    'single',
    window,
    (out, [source], kernels) => {
      const from = source!
      const width = widthOf(from)
      const values = kernels.floats(from.pointer, width * heightOf(from))
      const marks = smallRegions(values, width, regions, most, border)
      const made = kernels.floats(out.pointer, widthOf(out) * heightOf(out))
      let at = 0
      for (let y = out.top; y < out.bottom; y++)
        for (let x = out.left; x < out.right; x++, at++) {
          const i = (y - from.top) * width + x - from.left
          made[at] = marks[i] ? to : values[i]!
        }
    },
    // A region may reach anywhere
    { inputs: [matte], needs: () => window },
  )
}

export const fill: Refiner = refiner({
  id: 'fill',
  label: 'Holes filled',
  help: 'What is enclosed by what the matte holds is in, where it is small enough.',
  sentence: 'holes smaller than {size} filled',
  values: { size: size('Of as many pixels as a disc of this width. 0: none.', 12) },
  plan: ({ matte }, { size }) =>
    without(matte, size, { within: value => value < 1 - ENOUGH, corners: false }, 1, false, 'holes filled'),
})

export const drop: Refiner = refiner({
  id: 'drop',
  label: 'Specks dropped',
  help: 'What stands alone is out, where it is small enough.',
  sentence: 'specks smaller than {size} dropped',
  values: { size: size('Of as many pixels as a disc of this width. 0: none.', 6) },
  plan: ({ matte }, { size }) =>
    without(matte, size, { within: value => value > ENOUGH, corners: true }, 0, true, 'specks dropped'),
})
