import { value } from '../declare/field'
import { Matrix } from './matrix'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

const NAMES = ['red', 'green', 'blue'] as const
type Name = (typeof NAMES)[number]
const parts = <const N extends Name>(of: N): Record<`${N}_${Name}`, ReturnType<typeof value>> =>
  Object.fromEntries(
    NAMES.map(from => [
      `${of}_${from}`,
      value(-10, 10, {
        label: `${of}, of ${from}`,
        help: `How much of ${from} the new ${of} has.`,
        step: 0.002,
        neutral: of === from ? 1 : 0,
      }),
    ]),
  ) as Record<`${N}_${Name}`, ReturnType<typeof value>>

export const channels = treatment({
  id: 'channels',
  label: 'Mix channels',
  help: 'Each channel made of all three.',
  group: 'Colour',
  sentence:
    'Mix red of {red_red} {red_green} {red_blue}, green of {green_red} {green_green} {green_blue}, blue of {blue_red} {blue_green} {blue_blue}',
  values: { ...parts('red'), ...parts('green'), ...parts('blue') },
  shown: { red_red: 0, red_blue: 1, blue_blue: 0, blue_red: 1 },
  plan: (input, v) =>
    pointNode(Matrix, input, {
      red: [v.red_red, v.red_green, v.red_blue],
      green: [v.green_red, v.green_green, v.green_blue],
      blue: [v.blue_red, v.blue_green, v.blue_blue],
    }),
})
