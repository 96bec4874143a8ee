// Channels made of all three.
import { byRows } from '../formula/colours'
import { point } from '../formula/point'
import type { Colour, Term } from '../formula/term'
import { shade } from '../../kernels/record'

const parts = ({ red, green, blue }: Colour): [Term, Term, Term] => [red, green, blue]
/** Each channel of the result by what of red, green and blue makes it. */
export const Matrix = point(
  'Matrix',
  { red: shade, green: shade, blue: shade },
  ({ colour, values: { red, green, blue } }) => byRows(colour, parts(red), parts(green), parts(blue)),
)
