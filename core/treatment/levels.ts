import { float } from '../engine/pool'
import { KERNEL_LEVELS } from '../../kernels/assembly/layout'
import type { Treatment } from './treatment'

export const levels: Treatment = {
  id: 'levels', label: 'Levels', help: 'Sets which values become black and white, and bends what lies between.',
  sentence: 'Take {black} to {white} with gamma {gamma} to {out_black} to {out_white}', kernel: KERNEL_LEVELS, unpremultiplied: true,
  parameters: [
    { id: 'black', label: 'black in', help: 'This value becomes black.', unit: '', low: -1, high: 4, step: 0.0005, neutral: 0, digits: 3 },
    { id: 'white', label: 'white in', help: 'This value becomes white.', unit: '', low: 0.001, high: 16, step: 0.002, neutral: 1, digits: 3 },
    { id: 'gamma', label: 'gamma', help: 'Above 1 brightens the middles.', unit: '', low: 0.1, high: 10, step: 0.002, neutral: 1, digits: 3 },
    { id: 'out_black', label: 'black out', help: 'What black becomes.', unit: '', low: -1, high: 1, step: 0.0005, neutral: 0, digits: 3 },
    { id: 'out_white', label: 'white out', help: 'What white becomes.', unit: '', low: 0, high: 16, step: 0.002, neutral: 1, digits: 3 },
  ],
  // Equal ends would divide by zero: the span is kept to at least a thousandth
  words: ({ black, white, gamma, out_black, out_white }) => [float(black!), float(Math.max(0.001, white! - black!)), float(1 / gamma!), float(out_black!), float(out_white! - out_black!)],
}
