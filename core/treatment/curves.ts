import { bendTable, isStraight, type BendPoint } from '../colour/bend'
import { bendPoints, type BendSide } from '../declare/field'
import { between, signedPower } from '../formula/colours'
import { point } from '../formula/point'
import type { Term } from '../formula/term'
import { pointer } from '../../kernels/record'
import { pointNode } from '../plan/pointNode'
import { treatment } from './treatment'

/** Curves stand on light as the eye takes it: a power of 2.4, white at 1, on to 16 times white at about 3.2. */
const POWER = 2.4
const MOST = 4
const COUNT = 2049
const onCurve = (table: (index: Term) => Term, seen: Term): Term => {
  const bent = between(table, seen.times((COUNT - 1) / MOST), COUNT)
  // Below nothing and beyond the table it goes on as far as it went
  return bent.plus(seen.atMost(0)).plus(seen.minus(MOST).atLeast(0))
}
const Curve = point('Curve', { all: pointer }, ({ colour, tables }) =>
  colour.map(channel => signedPower(onCurve(tables.all, signedPower(channel, 1 / POWER)), POWER)),
)
const Curves = point('Curves', { all: pointer, red: pointer, green: pointer, blue: pointer }, ({ colour, tables }) =>
  colour.map((channel, which) =>
    signedPower(onCurve(tables.all, onCurve(tables[which], signedPower(channel, 1 / POWER))), POWER),
  ),
)
const SEEN: BendSide = { low: 0, high: MOST, seen: [0, 1.15], label: 'brightness' }
const curve = (label: string): ReturnType<typeof bendPoints> =>
  bendPoints(
    { across: SEEN, up: SEEN, rest: 'same' },
    [
      [0, 0],
      [1, 1],
    ],
    { label, help: 'What each brightness becomes, as the eye takes it: 0 black, 1 white.' },
  )
const table = (points: readonly BendPoint[]): Float32Array => bendTable(points, 0, MOST, COUNT)

export const curves = treatment({
  id: 'curves',
  label: 'Curves',
  help: 'What each brightness becomes, of all channels together and of each: smooth curves through points.',
  group: 'Light',
  sentence: 'Bend {all} {red} {green} {blue}',
  values: { all: curve('all'), red: curve('red'), green: curve('green'), blue: curve('blue') },
  idle: ({ all, red, green, blue }) => [all, red, green, blue].every(isStraight),
  shown: {
    all: [
      [0, 0],
      [0.25, 0.16],
      [0.75, 0.86],
      [1, 1],
    ],
  },
  plan: (input, { all, red, green, blue }) =>
    [red, green, blue].every(isStraight)
      ? pointNode(Curve, input, { all: table(all) }, { straight: true })
      : pointNode(
          Curves,
          input,
          { all: table(all), red: table(red), green: table(green), blue: table(blue) },
          { straight: true },
        ),
})
