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
} from './field'
import { PICTURE_FIELDS } from './picture'

export const LIGHT_KINDS = ['sun', 'box', 'disc', 'tube', 'ball', 'spot'] as const
export type LightKind = (typeof LIGHT_KINDS)[number]

export const LIGHT = thing(
  {
    name: name(),
    kind: choice(LIGHT_KINDS),
    /** Group that its light counts in where light is told apart; its own name when empty. */
    group: optional(text(0, 60, { refers: 'group of light' })),
    on: flag(),
    /** Compass direction it comes from (0 = behind the camera's -Z), height above the horizon. */
    azimuth: anyValue({ label: 'direction', unit: 'deg' }),
    elevation: value(-90, 90, { label: 'elevation', unit: 'deg' }),
    kelvin: value(1667, 25000, { label: 'colour', unit: 'K' }),
    /** Thousandths of Duv off the locus: green above 0, magenta below. */
    tint: optional(value(-100, 100, { label: 'tint', neutral: 0 })),
    /** Its temperature is that of a phase of daylight, else of a black body. */
    daylight: optional(flag()),
    /** Sun: stops over 1 W/m2; others: stops over 1 W/(m2 sr) of their surface. */
    stops: value(-30, 30, { label: 'strength', unit: 'stops' }),
    /** What its strength is said in; absent: stops. */
    unit: optional(choice(['lumen', 'watt'])),
    /** Lumen or watt that it gives off; a sun: lux or W/m2. */
    amount: optional(value(0, 1e9, { label: 'strength' })),
    /** Sun: apparent diameter. */
    diameter: value(0.01, 90, { label: 'apparent size', unit: 'deg' }),
    /** Width is the diameter of round ones, height the length of a tube. */
    width: value(0.001, 1000, { label: 'width', unit: 'm' }),
    height: value(0.001, 1000, { label: 'height', unit: 'm' }),
    distance: value(0.01, 10000, { label: 'distance', unit: 'm' }),
    /** Spot: full angle of its cone, and which share of it fades. */
    cone: optional(value(1, 179, { label: 'cone', unit: 'deg' })),
    softness: optional(value(0, 1, { label: 'softness' })),
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
    x: anyValue({ label: 'across', unit: 'm' }),
    y: anyValue({ label: 'up', unit: 'm' }),
    z: anyValue({ label: 'along', unit: 'm' }),
    width: value(0.001, 1e5, { label: 'width', unit: 'm' }),
    height: value(0.001, 1e5, { label: 'height', unit: 'm' }),
    depth: value(0.001, 1e5, { label: 'depth', unit: 'm' }),
    /** Metres after which half of the light is gone. */
    half: value(0.001, 1e6, { label: 'half gone after', unit: 'm' }),
    colour: colourValues(),
    /** -1 back, 0 all round, 1 on. */
    forward: value(-1, 1, { label: 'forward' }),
    noise: value(0, 1, { label: 'unevenness' }),
    noiseSize: value(0.001, 1e5, { label: 'size of its clouds', unit: 'm' }),
    seed: whole(0, 2147483647),
    base: anyValue({ label: 'base', unit: 'm' }),
    /** Metres over which it thins to a half with height; 0: not at all. */
    halfHeight: value(0, 1e5, { label: 'half height', unit: 'm' }),
  },
  { title: ({ name }) => name },
)

export const ENVIRONMENT = thing(
  {
    ...PICTURE_FIELDS,
    turn: anyValue({ label: 'turn', unit: 'deg' }),
    stops: value(-30, 30, { label: 'strength', unit: 'stops' }),
    seen: flag(),
    tint: optional(value(-100, 100, { label: 'tint', neutral: 0 })),
    /** The sun in it is taken out, to be a light of its own. */
    sunOut: optional(flag()),
  },
  { title: 'Environment' },
)

export type LightSettings = ValueOf<typeof LIGHT> & Row
export type AirSettings = ValueOf<typeof AIR> & Row
export type EnvironmentSettings = ValueOf<typeof ENVIRONMENT>
