import { colourValues, value } from '../declare/field'
import { around } from '../engine/box'
import { blendKernel } from '../plan/modes'
import { point } from '../formula/point'
import { finite } from '../plan/finite'
import { gaussian } from '../plan/gaussian'
import { kernelNode, type Node } from '../plan/node'
import { pointNode, whole } from '../plan/pointNode'
import { reshaped } from '../plan/shaped'
import { shade } from '../../kernels/record'
import { Blend, Clear } from '../../kernels/records'
import { pointOf, Projected } from './projected'
import { treatment } from './treatment'
import { inWindow } from './weighted'

/** Of one colour, as much as it is covered. */
const Filled = point('ContactFilled', { tint: shade }, ({ alpha, values }) => values.tint.times(alpha))
/** The shadow at the foot itself is so much shorter and sharper than that of all of it, and no longer than this. */
const SHORTER = 4
const LONGEST = 0.04
/** A shadow is this long at least, for what is as tall. */
const LEAST = 1e-3

export const contact = treatment({
  id: 'contact',
  label: 'Shadow at the foot',
  help: 'A shadow on the ground under a flat layer, from the line where it stands: dark and sharp at the foot, softer farther from it. On a layer that is cut out.',
  group: 'Air',
  sentence:
    'A shadow {amount} dark from the foot at {foot}, {length} as long as it is tall, leaning {lean}, soft by {size}, coloured {tint}',
  beside: true,
  values: {
    amount: value(0, 1, {
      label: 'amount',
      help: 'How much light is taken where nothing of it comes.',
      step: 0.004,
      neutral: 0,
      first: 0.7,
    }),
    foot: value(-1, 2, {
      label: 'foot',
      help: 'Where it stands, in heights of the frame from the top.',
      step: 0.001,
      digits: 3,
      first: 0.9,
    }),
    length: value(-4, 4, {
      label: 'length',
      help: 'How long the shadow is for what is as tall; it falls toward the viewer, less than 0 away.',
      step: 0.005,
      digits: 2,
      first: 0.12,
    }),
    lean: value(-4, 4, {
      label: 'lean',
      help: 'How far it goes to the right for what is as tall.',
      step: 0.005,
      digits: 2,
      first: 0.15,
    }),
    size: value(0, 300, {
      label: 'softness',
      help: 'Standard deviation at the far end, in pixels of the full frame; at the foot a quarter of that.',
      unit: 'px',
      pixels: 'size',
      step: 0.2,
      digits: 1,
      first: 12,
    }),
    tint: colourValues('tint ', { help: 'What is left of light there, linear Rec.709.', first: [0, 0, 0] }),
  },
  neutral: ['amount'],
  shown: { foot: 0.8, length: 0.6, lean: 0.6 },
  plan: (input, { amount, foot, length, lean, size, tint }) => {
    const { width, height } = input
    const clean = finite(input.colour)
    const line = foot * height
    /** What it throws on the ground, so long and soft. */
    const thrown = (long: number, across: number, soft: number): Node => {
      // Height above the foot to that below it, and to the right; a level one has no way back
      const back = 1 / (Math.abs(long) < LEAST ? LEAST : long)
      const places = pointOf([1, -across * back, across * back * line, 0, -back, line * (1 + back), 0, 0, 1])
      const dark = pointNode(Filled, whole(clean), { tint })
      const laid = reshaped(
        { ...input, colour: dark },
        {
          alter: own => pointNode(Projected, whole(own), places),
          ...{ pure: true, filter: 'straight', goesOn: false },
        },
        input,
      ).colour
      return gaussian(laid, soft, { width, height })
    }
    const over = (backdrop: Node, source: Node, opacity: number): Node => {
      const window = around(backdrop.window, source.window)
      const [below, above] = [backdrop, source].map(node => inWindow(node, window)) as [Node, Node]
      return kernelNode(Blend, { backdrop: below, source: above, mode: blendKernel('over'), opacity }, { window })
    }
    // Together as dark as is said
    const each = 1 - Math.sqrt(1 - amount)
    const all = thrown(length, lean, size)
    const part = Math.min(1 / SHORTER, LONGEST / Math.max(LEAST, Math.abs(length)))
    const near = thrown(length * part, lean * part, size / SHORTER)
    const empty = kernelNode(Clear, {}, { window: all.window })
    return over(over(over(empty, all, each), near, each), clean, 1)
  },
})
