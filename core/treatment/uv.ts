import { point } from '../formula/point'
import { Colour } from '../formula/term'
import { pointNode, whole } from '../plan/pointNode'
import { value } from '../declare/field'
import { raster, splat } from '../../kernels/record'
import { shape, SHAPE_SENTENCE, SHAPE_VALUES } from './shape'

/** Texture coordinates count from the upper left corner, as in glTF. */
const Wrapped = point(
  'UvWrapped',
  { by: raster('colour'), width: splat, height: splat, across: splat, down: splat },
  ({ colour, colours, values: v }) =>
    new Colour(
      colours.by.colour.red.times(v.across).times(v.width),
      colours.by.colour.green.times(v.down).times(v.height),
      colour.blue.times(colours.by.alpha.atLeast(0).atMost(1)),
    ),
)
export const uv = shape({
  id: 'uv',
  label: 'On texture coordinates',
  help: 'The picture on the surface of what was rendered, by the pass of texture coordinates: a sign, a screen, a paint that came later.',
  sentence: `On texture coordinates {across} times across and {down} times down${SHAPE_SENTENCE}`,
  values: {
    across: value(-100, 100, {
      label: 'across',
      help: 'How often it stands on the whole of them.',
      step: 0.01,
      first: 1,
    }),
    down: value(-100, 100, { label: 'down', help: 'The same downwards.', step: 0.01, first: 1 }),
    ...SHAPE_VALUES,
    // As textures do unless they say otherwise (glTF 2.0, 5.26)
    beyond: { ...SHAPE_VALUES.beyond, first: 'itself again' },
  },
  needs: () => ['uv'],
  impure: true,
  places: (input, { across, down }, places) => {
    const by = input.pass?.('uv')
    return by
      ? pointNode(Wrapped, whole(places), { by, width: input.width, height: input.height, across, down })
      : places
  },
})
