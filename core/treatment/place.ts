// A point of the frame that values say.
import { value, type About } from '../declare/field'

const REACH = { step: 0.002, digits: 3 } as const
/** x and y in widths and heights of the frame, a little way beyond it too. of: what it is, for the help. */
export const frameValues = (
  of: string,
  { x = 0.5, y = 0.5, with: counts }: { x?: number; y?: number } & Pick<About, 'with'> = {},
) => {
  const beside = counts && { with: counts }
  return {
    x: value(-4, 5, {
      ...{ label: 'across', help: `Of ${of}, in widths of the frame from the left; it may lie beyond.`, first: x },
      ...REACH,
      ...beside,
    }),
    y: value(-4, 5, {
      ...{ label: 'down', help: `Of ${of}, in heights of the frame from the top.`, first: y },
      ...REACH,
      ...beside,
    }),
  }
}
