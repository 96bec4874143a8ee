// The whole shot document, from its parts.
import { VIEWS } from '../../colour/view'
import { CAMERA, LENS, TRACK } from './camera'
import {
  choice,
  flag,
  named,
  number,
  optional,
  orNull,
  rows,
  text,
  thing,
  titled,
  three,
  whole,
  type ValueOf,
} from '../../declare/field'
import { BUILD } from './layer'
import { AIR, ENVIRONMENT, LIGHT } from './light'
import { MATCH } from './match'
import { KEPT_MATTE } from './matte'
import { PASSES_FIELD } from './passes'
import { BLOB_REFERENCE, PICTURE, RATE, SIZE } from './picture'
import { ADDED, OBJECT, PRINT } from './thing'
import { TREATMENT } from './treatment'

export const DOCUMENT_VERSION = 6

/** Where a scene file's origin stands in the shot, metres, and how many times its own size the whole of it is. */
const FILE_PLACE = thing({ at: three(-1e9, 1e9), times: number(1e-6, 1e6) })

const SCENE = thing({
  file: orNull(BLOB_REFERENCE),
  /** As in the file when not said. */
  filePlace: optional(FILE_PLACE),
  objects: named(OBJECT, 65535, 'object'),
  /** New names of the file's objects. */
  names: optional(named(text(1, 300), 65535)),
  added: optional(rows(ADDED, 2000)),
  prints: optional(rows(PRINT, 200)),
  track: optional(orNull(TRACK)),
  camera: CAMERA,
  fileLights: flag(),
  lights: rows(LIGHT, 500),
  volumes: optional(rows(AIR, 16)),
  environment: orNull(ENVIRONMENT),
})

export const SHOT = thing({
  version: choice([DOCUMENT_VERSION]),
  frame: thing(SIZE),
  rate: RATE,
  frames: thing(
    { first: whole(-1e6, 1e6), last: whole(-1e6, 1e6) },
    { faults: ({ first, last }) => (last < first ? ['last: lies before first'] : []) },
  ),
  view: choice(VIEWS.map(({ id }) => id)),
  plate: orNull(titled('Plate', PICTURE)),
  scene: SCENE,
  passes: PASSES_FIELD,
  build: BUILD,
  finish: rows(TREATMENT, 200),
  /** Kept under names, to be used anywhere. */
  mattes: rows(KEPT_MATTE, 200),
  /** What was drawn on the plate to find its camera. */
  match: optional(MATCH),
  lens: optional(LENS),
})

export type FilePlace = ValueOf<typeof FILE_PLACE>
export type ShotDocument = ValueOf<typeof SHOT>
