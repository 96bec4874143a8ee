import { value } from '../declare/field'
import { finite } from '../plan/finite'
import { gaussian } from '../plan/gaussian'
import { kernelNode, type Node } from '../plan/node'
import { around } from '../engine/box'
import { Mix } from '../../kernels/records'
import { treatment } from './treatment'

/** The far bell is so many times as wide as the near one, and has so much of the light. */
const FAR = 5
const FAR_SHARE = 0.35

export const diffusion = treatment({
  id: 'diffusion',
  label: 'Diffusion',
  help: 'As a mist filter before the lens or an old lens wide open: bright things bleed softly into dark ones, and the picture under it stays sharp. No light is won or lost.',
  group: 'Lens',
  sentence: 'Diffusion {amount} over {size}',
  beside: true,
  values: {
    amount: value(0, 1, {
      label: 'amount',
      help: 'Share of the light that bleeds.',
      step: 0.004,
      neutral: 0,
      first: 0.2,
    }),
    size: value(0.2, 500, {
      label: 'size',
      help: 'Standard deviation of the nearer part, in pixels of the full frame; a third of the light goes five times as far.',
      unit: 'px',
      pixels: 'size',
      step: 0.2,
      digits: 1,
      first: 10,
    }),
  },
  neutral: ['amount'],
  shown: { amount: 0.7 },
  plan: (input, { amount, size }) => {
    const { width, height } = input
    const clean = finite(input.colour)
    const near = gaussian(clean, size, { width, height })
    const far = gaussian(clean, size * FAR, { width, height })
    const mixed = (first: Node, second: Node, share: number): Node =>
      kernelNode(Mix, { first, second, share }, { window: around(first.window, second.window) })
    return mixed(clean, mixed(near, far, FAR_SHARE), amount)
  },
})
