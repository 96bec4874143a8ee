// What a figure is told by: where it stands, where its picture touches the ground, its shadow and what mirrors it.
import { anyValue, choice, colourValues, optional, value } from '../declare/field'
import type { EntryFields, ValuesAt } from '../declare/values'
import type { Contact, Stance } from './card'
import { share } from './layer'

/** Metres of the world along one of its axes. */
export const placeMetres = (label: string, help: string, first: number): ReturnType<typeof value> =>
  value(-1e5, 1e5, { label, help, unit: 'm', step: 0.02, hand: [-10000, 10000], first })
const ofPicture = (label: string, help: string, first: number): ReturnType<typeof value> =>
  value(-1, 2, { label, help, step: 0.001, digits: 3, first })
/** What counts only where it is laid: in the scene the render finds it. */
const LAID = { name: 'world', is: ['picture'] } as const
export const FIGURE_VALUES = {
  world: optional(
    choice(['picture', 'scene'], {
      label: 'stands in',
      help: 'In the picture its shadow and mirror image are laid. In the scene it is a card, and what that does to light, to glass and to what is wet is rendered with the passes.',
      neutral: 'picture',
    }),
  ),
  x: placeMetres('x', 'Of its foot, in the world.', 0),
  z: placeMetres('z', 'Of its foot, in the world; less is farther from a camera that looks along it.', -8),
  level: placeMetres('ground', 'Height of the ground that it stands on.', 0),
  height: value(0.01, 1000, {
    label: 'height',
    help: 'From its foot to the top of its head, as tall as it is.',
    unit: 'm',
    step: 0.005,
    first: 1.75,
  }),
  facing: choice(['as taken', 'mirrored'], { label: 'facing', neutral: 'as taken' }),
  lean: value(-180, 180, {
    label: 'lean',
    help: 'Turned about its foot, clockwise.',
    unit: '°',
    step: 0.1,
    digits: 1,
    neutral: 0,
  }),
  foot_across: ofPicture('foot across', 'Where in its own picture it touches the ground, in widths.', 0.5),
  foot_down: ofPicture('foot down', 'Where in its own picture it touches the ground, in heights from the top.', 1),
  head_down: ofPicture('head down', 'Where in its own picture its head ends, in heights from the top.', 0),
  feet: choice(['one place', 'two places'], {
    label: 'feet',
    help: 'Whether its feet touch the ground at one height of its picture, or each at its own.',
    neutral: 'one place',
  }),
  other_across: {
    ...ofPicture('other foot across', 'Where its other foot touches the ground, in widths.', 0.6),
    with: { name: 'feet', is: ['two places'] },
  },
  other_down: {
    ...ofPicture('other foot down', 'Where its other foot touches the ground, in heights from the top.', 1),
    with: { name: 'feet', is: ['two places'] },
  },
  shadow: {
    ...share('shadow', 'On the ground: 1 as dark as what lights the place makes it, 0 none.', 0, 2),
    ...{ first: 1, with: LAID },
  },
  lit: {
    ...choice(['as the scene is', 'by one light', 'by hand'], {
      label: 'lit',
      help: 'What its shadow falls away from: all that lights the scene there, one of its lamps or its sun, or a sun of its own.',
      neutral: 'as the scene is',
    }),
    with: LAID,
  },
  sun_heading: {
    ...anyValue({
      label: 'heading',
      help: 'Whence it shines: 0 from behind the scene (-Z), 90 from the right (+X).',
      unit: '°',
      step: 0.5,
      digits: 1,
      first: 60,
    }),
    with: { name: 'lit', is: ['by hand'] },
  },
  sun_height: {
    ...value(1, 90, { label: 'height of the sun', unit: '°', step: 0.2, digits: 1, first: 40 }),
    with: { name: 'lit', is: ['by hand'] },
  },
  sun_size: {
    ...value(0, 60, {
      label: 'size of the sun',
      help: 'How wide it is: 0.53 in a clear sky, more behind haze.',
      unit: '°',
      step: 0.05,
      digits: 2,
      first: 0.53,
    }),
    with: { name: 'lit', is: ['by hand'] },
  },
  sun_share: {
    ...share('of the light', 'How much of the light of the place comes from it.', 0),
    first: 0.7,
    with: { name: 'lit', is: ['by hand'] },
  },
  softer: {
    ...value(0, 20, {
      label: 'softer',
      help: 'Lights as many times as large as they are: 1 as they are.',
      step: 0.01,
      neutral: 1,
    }),
    with: LAID,
  },
  round: {
    ...share('round', 'What it is taken for: 1 as wide to every light as its picture is, 0 as flat as that.', 0),
    ...{ first: 1, with: LAID },
  },
  shade: {
    ...colourValues('shade ', { help: 'What is left of the light where it falls, linear Rec.709.', neutral: 0 }),
    with: LAID,
  },
  wall: {
    ...choice(['none', 'upright'], {
      label: 'wall',
      help: 'A wall behind or beside it that its shadow climbs, and that may mirror it.',
      neutral: 'none',
    }),
    with: LAID,
  },
  wall_x: { ...placeMetres('wall x', 'A place at the foot of the wall.', 0), with: { name: 'wall', is: ['upright'] } },
  wall_z: {
    ...placeMetres('wall z', 'A place at the foot of the wall.', -12),
    with: { name: 'wall', is: ['upright'] },
  },
  wall_turn: {
    ...anyValue({
      label: 'wall turn',
      help: 'From across (+X), counter-clockwise from above.',
      unit: '°',
      step: 0.5,
      digits: 1,
      first: 0,
    }),
    with: { name: 'wall', is: ['upright'] },
  },
  mirror: {
    ...share('mirrored', 'How much of it wet or polished ground mirrors: 1 as still water does, 0 nothing.', 0, 4),
    with: LAID,
  },
  mirror_rough: {
    ...value(0, 1, {
      label: 'rough',
      help: 'How rough what mirrors is: 0 a mirror, 1 hardly one.',
      step: 0.002,
      digits: 3,
      neutral: 0,
    }),
    with: LAID,
  },
  mirror_hides: {
    ...share(
      'hides',
      'How much of what lies there it hides, which was mirrored light before: most on still water, little on damp stone.',
      0,
    ),
    ...{ first: 0.6, with: LAID },
  },
  mirror_fade: {
    ...value(0.01, 1000, {
      label: 'fades over',
      help: 'Of what stands higher than that nothing is mirrored.',
      unit: 'm',
      step: 0.02,
      neutral: 1000,
    }),
    with: LAID,
  },
  mirror_wall: {
    ...share('mirrored by the wall', 'How much of it the wall mirrors, as a window does: 1 as glass, 0 nothing.', 0, 4),
    with: { name: 'wall', is: ['upright'] },
  },
} as const satisfies EntryFields

export type FigureValues = ValuesAt<typeof FIGURE_VALUES>

export const stanceOf = (values: FigureValues): Stance => ({
  ...{ x: values.x, z: values.z, level: values.level, height: values.height, lean: values.lean },
  mirrored: values.facing === 'mirrored',
})
export const contactOf = (values: FigureValues): Contact => ({
  ...{ footAcross: values.foot_across, footDown: values.foot_down, headDown: values.head_down },
  second: values.feet === 'two places' ? { across: values.other_across, down: values.other_down } : undefined,
})
