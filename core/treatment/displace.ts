import { MIDDLE_GREY } from '../colour/luminance'
import { choice, value } from '../declare/field'
import { point } from '../formula/point'
import { Colour } from '../formula/term'
import { pointNode, whole } from '../plan/pointNode'
import { raster, splat } from '../../kernels/record'
import { shape, SHAPE_VALUES } from './shape'

const Displaced = point(
  'Displaced',
  { by: raster('colour'), across: splat, down: splat, middle: splat },
  ({ colour, colours, values: v }) =>
    new Colour(
      colour.red.plus(colours.by.colour.red.minus(v.middle).times(v.across)),
      colour.green.plus(colours.by.colour.green.minus(v.middle).times(v.down)),
      colour.blue,
    ),
)
const PASSES = { 'how things face': 'normal_camera', 'the picture': '' } as const

export const displace = shape({
  id: 'displace',
  label: 'Bent by a picture',
  help: 'Each place is moved as another picture says, red across and green down: by how things face (as thick glass bends what is behind it), or by the picture’s own colours.',
  sentence: 'Bent by {by}: {across} across, {down} down; {filter}, beyond the edge {beyond}',
  values: {
    by: choice(['how things face', 'the picture'], {
      label: 'picture',
      help: 'The pass of normals as the camera sees them, or the picture itself, of which middle grey moves nothing.',
    }),
    across: value(-1e4, 1e4, {
      label: 'across',
      help: 'How far a place is moved where red is 1, in pixels of the full frame.',
      unit: 'px',
      pixels: 'across',
      step: 0.2,
      digits: 1,
      neutral: 0,
      first: 12,
    }),
    down: value(-1e4, 1e4, {
      label: 'down',
      help: 'The same downwards, by green.',
      unit: 'px',
      pixels: 'down',
      step: 0.2,
      digits: 1,
      neutral: 0,
      first: 12,
    }),
    ...SHAPE_VALUES,
    beyond: { ...SHAPE_VALUES.beyond, first: 'a mirror' },
  },
  neutral: ['across', 'down'],
  shown: { by: 'the picture', across: 25, down: 25 },
  needs: ({ by }) => [PASSES[by as keyof typeof PASSES]].filter(Boolean),
  impure: true,
  places: (input, { by, across, down }, places) => {
    const pass = PASSES[by as keyof typeof PASSES]
    const source = pass ? input.pass?.(pass) : input.colour
    if (!source) return places
    // Up in what faces is down in the picture
    const sign = pass === 'normal_camera' ? -1 : 1
    return pointNode(Displaced, whole(places), {
      by: source,
      across,
      down: down * sign,
      middle: pass ? 0 : MIDDLE_GREY,
    })
  },
})
