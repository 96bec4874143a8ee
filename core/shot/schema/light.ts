// What lights the scene, and the air in it.
import {
  anyValue,
  choice,
  colourValues,
  flag,
  name,
  objectName,
  optional,
  text,
  thing,
  threeValues,
  value,
  whole,
  type Row,
  type ValueOf,
} from '../../declare/field'
import { PICTURE_FIELDS } from './picture'

export const LIGHT_KINDS = ['sun', 'box', 'disc', 'tube', 'ball', 'spot'] as const
export type LightKind = (typeof LIGHT_KINDS)[number]

const TINT = {
  label: 'tint',
  help: 'Green above 0, magenta below; thousandths of Duv.',
  step: 0.1,
  digits: 1,
  neutral: 0,
}
export const LIGHT = thing(
  {
    name: name(),
    kind: choice(LIGHT_KINDS),
    /** Group that its light counts in where light is told apart; its own name when empty. */
    group: optional(text(0, 60)),
    on: flag(),
    /** Compass direction it comes from (0 = behind the camera's -Z), height above the horizon. */
    azimuth: anyValue({
      label: 'direction',
      help: 'Compass direction it comes from; 0 is ahead of the world.',
      hand: [-3600, 3600],
      step: 0.3,
      digits: 1,
      unit: 'deg',
    }),
    elevation: value(-90, 90, {
      label: 'elevation',
      help: 'Above the horizon. Raising it shortens the shadow.',
      step: 0.2,
      digits: 1,
      unit: 'deg',
    }),
    kelvin: value(1667, 25000, {
      label: 'colour',
      help: '5600 K is daylight (common practice).',
      step: 10,
      digits: 0,
      unit: 'K',
    }),
    /** Thousandths of Duv off the locus: green above 0, magenta below. */
    tint: optional(value(-100, 100, TINT)),
    /** Its temperature is that of a phase of daylight, else of a black body. */
    daylight: optional(flag()),
    /** Sun: stops over 1 W/m2; others: stops over 1 W/(m2 sr) of their surface. */
    stops: value(-30, 30, { label: 'strength', help: 'Each stop doubles it.', step: 0.02, unit: 'stops' }),
    /** What its strength is said in; absent: stops. */
    unit: optional(choice(['lumen', 'watt'])),
    /** Lumen or watt that it gives off; a sun: lux or W/m2. */
    amount: optional(
      value(0, 1e9, { label: 'strength', help: 'All the light that it gives off.', step: 5, digits: 1 }),
    ),
    /** Sun: apparent diameter. */
    diameter: value(0.01, 90, {
      label: 'apparent size',
      help: 'The sun has 0.53 degrees; larger is softer.',
      hand: [0.05, 90],
      step: 0.02,
      unit: 'deg',
    }),
    /** Width is the diameter of round ones, height the length of a tube. */
    width: value(0.001, 1000, { label: 'width', hand: [0.002, 100], step: 0.005, digits: 3, unit: 'm' }),
    height: value(0.001, 1000, { label: 'height', hand: [0.002, 100], step: 0.005, digits: 3, unit: 'm' }),
    distance: value(0.01, 10000, {
      label: 'distance',
      help: 'From what it points at.',
      hand: [0.05, 10000],
      step: 0.02,
      unit: 'm',
    }),
    /** Spot: full angle of its cone, and which share of it fades. */
    cone: optional(
      value(1, 179, {
        label: 'cone',
        help: 'Its full angle.',
        hand: [1, 178],
        step: 0.2,
        digits: 1,
        unit: 'deg',
        neutral: 40,
      }),
    ),
    softness: optional(
      value(0, 1, { label: 'softness', help: 'Which share of the cone fades.', step: 0.004, neutral: 0.3 }),
    ),
    /** Where it points. */
    target: threeValues(['target across', 'target up', 'target along']),
    /** Object whose middle it points at, in place of the target. */
    aim: optional(objectName()),
  },
  { title: ({ name }) => name },
)

/** Air with something in it: mist, smoke, water. */
export const AIR = thing(
  {
    name: name(),
    on: flag(),
    /** Everywhere, in a box on the ground under its place, or as the body of a thing. */
    shape: choice(['space', 'box', 'thing']),
    thing: optional(objectName()),
    x: anyValue({ label: 'across', hand: [-10000, 10000], step: 0.02, unit: 'm' }),
    y: anyValue({ label: 'up', hand: [-10000, 10000], step: 0.02, unit: 'm' }),
    z: anyValue({ label: 'along', hand: [-10000, 10000], step: 0.02, unit: 'm' }),
    width: value(0.001, 1e5, { label: 'width', hand: [0.01, 10000], step: 0.02, unit: 'm' }),
    height: value(0.001, 1e5, { label: 'height', hand: [0.01, 10000], step: 0.02, unit: 'm' }),
    depth: value(0.001, 1e5, { label: 'depth', hand: [0.01, 10000], step: 0.02, unit: 'm' }),
    /** Metres after which half of the light is gone. */
    half: value(0.001, 1e6, { label: 'half of the light is gone after', hand: [0.01, 1e5], step: 0.05, unit: 'm' }),
    colour: colourValues('', { hand: [0, 1], step: 0.004 }),
    /** -1 back, 0 all round, 1 on. */
    forward: value(-1, 1, {
      label: 'scatters on',
      help: '1 straight on, 0 all round, -1 straight back. Mist about 0.8, smoke less.',
      hand: [-0.98, 0.98],
      step: 0.004,
      neutral: 0,
    }),
    noise: value(0, 1, {
      label: 'uneven by',
      help: '0 even; 1 in patches with little between.',
      step: 0.004,
      neutral: 0,
    }),
    noiseSize: value(0.001, 1e5, { label: 'patches of', hand: [0.01, 1000], unit: 'm' }),
    seed: whole(0, 2147483647),
    base: anyValue({ label: 'thins out from a height of', hand: [-1000, 10000], step: 0.02, unit: 'm' }),
    /** Metres over which it thins to a half with height; 0: not at all. */
    halfHeight: value(0, 1e5, {
      label: 'to a half every',
      help: '0: it does not thin out.',
      hand: [0, 10000],
      step: 0.02,
      unit: 'm',
      neutral: 0,
    }),
  },
  { title: ({ name }) => name },
)

export const ENVIRONMENT = thing(
  {
    ...PICTURE_FIELDS,
    turn: anyValue({ label: 'turned', hand: [-3600, 3600], step: 0.3, digits: 1, unit: 'deg', neutral: 0 }),
    stops: value(-30, 30, { label: 'strength', hand: [-20, 20], step: 0.02, unit: 'stops', neutral: 0 }),
    seen: flag(),
    tint: optional(value(-100, 100, TINT)),
    /** The sun in it is taken out, to be a light of its own. */
    sunOut: optional(flag()),
  },
  { title: 'Environment' },
)

export type LightSettings = ValueOf<typeof LIGHT> & Row
export type AirSettings = ValueOf<typeof AIR> & Row
export type EnvironmentSettings = ValueOf<typeof ENVIRONMENT>
