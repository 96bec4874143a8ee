// What is to be rendered, and what was.
import { MOST_GROUPS } from '../../../kernels/assembly/layout'
import { MOST_CRYPTO_RANKS, PASS_IDS } from '../../render/passes'
import { LENS_VALUES, SHUTTER_OF_RENDER } from '../../lens/values'
import { MAXIMUM_FRAMES } from '../clip'
import {
  blob,
  choice,
  flag,
  list,
  named,
  number,
  optional,
  orNull,
  pair,
  text,
  thing,
  whole,
  type ValueOf,
} from '../../declare/field'
import { SIZE } from './picture'
import { READING } from './reading'

/** Samples after which a kind of pass gets no more; as many as the others where it is not said. */
const LIMITS = thing({
  light: optional(whole(1, 65536)),
  shadow: optional(whole(1, 65536)),
  occlusion: optional(whole(1, 65536)),
  beyond: optional(whole(1, 65536)),
})
/** How the edges of things are drawn. */
const OUTLINE_FIELD = thing({
  width: number(0.1, 40, { unit: 'px' }),
  /** Degrees between two facings from which a fold is drawn; 180 draws none. */
  crease: number(0, 180, { unit: 'deg' }),
  /** Lines between materials of one object. */
  materials: flag(),
  /** Metres at which lines have their width; nearer ones are wider, farther ones finer. 0: all are alike. */
  distance: number(0, 1e6, { unit: 'm' }),
  /** 0..1: how much the width wavers, and over how many metres. */
  waver: number(0, 1),
  waverSize: number(0.001, 1e4, { unit: 'm' }),
  /** On which side of an edge: on both, on the nearer thing only (to be taken out of it), or outside of it. */
  side: choice(['both', 'inside', 'outside']),
})

/** The lens that a render is taken through. */
const LENS_FIELD = thing(
  {
    ...LENS_VALUES,
    /** Passes of data say what the ray through the middle of the lens meets. */
    sharpData: flag(),
  },
  { title: 'True lens' },
)

/** How long the shutter of a render is open. */
const SHUTTER_FIELD = thing(
  {
    ...SHUTTER_OF_RENDER,
    /** Passes of data are those of the frame itself. */
    sharpData: flag(),
  },
  { title: 'True shutter' },
)

const MOST_NAMES = 65535
const names = (most = MOST_NAMES) => list(text(0, 300, { refers: 'object' }), most)
/** Rendered passes. */
export const PASS_FILE = thing({
  blob: blob(),
  name: text(1, 300),
  ...SIZE,
  passes: list(choice(PASS_IDS), 1000),
  objects: names(),
  /** Those of them that stand in for the plate: they catch and hold out, nothing of their own is seen. */
  standIns: optional(names()),
  materials: list(text(0, 300), MOST_NAMES),
  /** Groups of light that have a beauty of their own. */
  lights: optional(list(text(0, 300), MOST_GROUPS)),
  /** The light is there with its noise taken out too. */
  clean: optional(flag()),
  /** What it, and each of its passes, was rendered from (core/shot/stamp.ts). */
  of: text(0, 100),
  stamps: optional(named(text(1, 300), MOST_NAMES)),
  /** Of a range of frames: files of each, null where one is not rendered. `blob` is the first's. */
  frames: optional(thing({ first: whole(-1e6, 1e6), blobs: list(orNull(blob()), MAXIMUM_FRAMES) })),
  /** Names of its objects that have changed since. */
  names: optional(named(text(1, 300), MOST_NAMES)),
  /** Pixels of the full frame that it reaches beyond the frame: left and right, top and bottom. */
  margin: optional(pair(0, 32768)),
  /** Of a set from elsewhere: what its layers are. */
  reading: optional(READING),
})

export const PASSES_FIELD = thing({
  /** Of the frame's size. */
  scale: choice([1, 0.5, 0.25]),
  samples: whole(1, 65536),
  seed: whole(0, 2147483647),
  bounces: whole(0, 64),
  /** Ranks of Cryptomatte; 6 when it says nothing. */
  ranks: optional(whole(1, MOST_CRYPTO_RANKS)),
  /** Occlusion: metres it reaches, power by which far things darken less (0: all alike), degrees of its cone to each side. */
  reach: number(0.001, 1e5, { unit: 'm' }),
  falloff: optional(number(0, 16)),
  cone: optional(number(1, 90, { unit: 'deg' })),
  /** Upper bound of one indirect contribution (scene-linear) against bright specks; absent or 0: none. */
  clamp: optional(number(0, 1e6)),
  limits: optional(LIMITS),
  /** Noise (standard deviation over brightness) at which a pixel gets no more samples. */
  noiseLevel: optional(number(0.0001, 1)),
  /** Minutes after which it ends with what there is. */
  minutes: optional(number(0.01, 1e5)),
  /** Metres between which the mist rises. */
  mist: optional(thing({ near: number(0, 1e6), far: number(0, 1e6) })),
  outline: optional(OUTLINE_FIELD),
  /** A pinhole where it is not said. */
  lens: optional(LENS_FIELD),
  /** Nothing moves where it is not said. */
  shutter: optional(SHUTTER_FIELD),
  /** Whether noise is taken out of the light, beside what is rendered; it is when this says nothing. */
  denoise: optional(flag()),
  selected: list(choice(PASS_IDS), 1000),
  file: orNull(PASS_FILE),
})

export type LensOfRender = ValueOf<typeof LENS_FIELD>
export type ShutterOfRender = ValueOf<typeof SHUTTER_FIELD>
export type SampleLimits = ValueOf<typeof LIMITS>
export type OutlineSettings = ValueOf<typeof OUTLINE_FIELD>
export type PassFileReference = ValueOf<typeof PASS_FILE>
export type PassSettings = ValueOf<typeof PASSES_FIELD>
