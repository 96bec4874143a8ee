// The engine worker as promises. One for the page.
import EngineWorker from '~/workers/engine.worker?worker'
import type { NamesFile } from '../../core/formats/cryptomatte/named'
import type { Touching } from '../../core/measure/contact'
import type { FitMeasured } from '../../core/compose/fit'
import type { Part } from '../../core/compose/probe'
import type { Going } from '../../core/shot/along'
import type { NamesOf, Seen } from '../../core/render/passes'
import type { LightMeasure, Plane } from '../../core/measure/light'
import type { Likeness } from '../../core/measure/likeness'
import type { CameraTrack } from '../../core/track/track'
import type { FoundSun } from '../../core/scene/environmentSun'
import type {
  EngineCall,
  GreyPlace,
  ObjectEdges,
  PassDescription,
  Picture,
  PictureDescription,
  PictureOrder,
  PixelReading,
  SceneInfo,
  ScenePreview,
  SnappedLines,
  Told,
} from '~/workers/messages'
import type { ThingSeen } from '../../core/compose/sounded'
import type { PlateDepth } from '../../core/render/plateDepth'
import type { readSo, Theirs } from '../../core/render/theirs'
import type { CameraSettings, FilePlace, PassReading, ShotDocument } from '../../core/shot/document'
import type { Vector3 } from '../../core/scene/vector'
import { stepsTo } from '../../core/shot/patch'

let worker: Worker | undefined
let next = 1
/** The document that the engine knows; the next one is told by what differs. */
let told: ShotDocument | undefined
/** Counts what the page has turned to; the engine looks at it between two bands of work. */
const turn = new Int32Array(new SharedArrayBuffer(4))

/** Work that was dropped for something later. */
export class Dropped extends Error {}
const waiting = new Map<number, { resolve(value: unknown): void; reject(error: Error): void }>()

function started(): Worker {
  if (!worker) {
    worker = new EngineWorker()
    worker.postMessage({ id: 0, call: 'turn', turn: turn.buffer })
    worker.onmessage = (event: MessageEvent<{ id: number; result?: unknown; error?: string; dropped?: boolean }>) => {
      const entry = waiting.get(event.data.id)
      waiting.delete(event.data.id)
      if (event.data.dropped) entry?.reject(new Dropped())
      else if (event.data.error !== undefined) entry?.reject(new Error(event.data.error))
      else entry?.resolve(event.data.result)
    }
    worker.onerror = event => {
      for (const entry of waiting.values()) entry.reject(new Error(`The engine stopped: ${event.message}`))
      waiting.clear()
    }
  }
  return worker
}

function call<T>(message: EngineCall): Promise<T> {
  const id = next++
  return new Promise<T>((resolve, reject) => {
    waiting.set(id, { resolve: resolve as (value: unknown) => void, reject })
    // Plain data: Vue's proxies cannot be sent, a file as it is can
    started().postMessage(
      'file' in message ? { id, ...message } : JSON.parse(JSON.stringify({ id, ...briefly(message) })),
    )
  })
}

/** A message with its document told by what differs from the one before: documents are never changed in place. */
function briefly(message: EngineCall): object {
  const document = 'order' in message ? message.order.document : 'document' in message ? message.document : undefined
  if (!document) return message
  const now = toRaw(document)
  const steps = stepsTo(told ?? ({} as ShotDocument), now)
  told = now
  return 'order' in message
    ? { ...message, order: { ...message.order, document: { steps } satisfies Told } }
    : { ...message, document: { steps } satisfies Told }
}

export const engine = {
  /** Compiles and starts ahead of the first call. */
  warm: () => {
    started()
  },
  describe: (file: File) => call<PictureDescription>({ call: 'describe', file }),
  /** What a file of passes holds; null for a picture. */
  describePasses: (file: File) => call<PassDescription | null>({ call: 'describePasses', file }),
  /** What there is to ask of a set of passes from elsewhere; null where there is nothing. */
  theirs: (file: File) => call<Theirs | null>({ call: 'theirs', file }),
  /** An OpenEXR with the names of its Cryptomattes that stand in files beside it; null where none belongs to it. */
  withNames: (file: File, names: readonly NamesFile[]) => call<Uint8Array | null>({ call: 'withNames', file, names }),
  readSo: (file: File, reading: PassReading) =>
    call<Awaited<ReturnType<typeof readSo>>>({
      call: 'readSo',
      file,
      reading: JSON.parse(JSON.stringify(reading)) as PassReading,
    }),
  /** The depth of a plate out of a file of its own. */
  plateDepth: (file: File) => call<PlateDepth>({ call: 'plateDepth', file }),
  /** droppable: rejected with Dropped after the next `drop`. */
  picture: (order: PictureOrder, droppable = false) =>
    call<Picture>({ call: 'picture', order: droppable ? { ...order, turn: Atomics.load(turn, 0) } : order }),
  /** What was asked for so far as droppable is not wanted any more. */
  drop: () => {
    Atomics.add(turn, 0, 1)
  },
  /** What its light is like. */
  measure: (order: PictureOrder, on: Plane) => call<LightMeasure>({ call: 'measure', order, on }),
  /** What its tones and colours are like; undefined where nothing is covered. */
  likeness: (order: PictureOrder, grain: boolean) => call<Likeness | undefined>({ call: 'likeness', order, grain }),
  /** A layer measured beside the plate. Rejected where there is nothing to measure. */
  fit: (document: ShotDocument, frame: number, layer: string) =>
    call<FitMeasured>({ call: 'fit', document, frame, layer }),
  /** A shot's finish as the text of a .cube table. */
  table: (document: ShotDocument, frame: number, title: string, encoding: string) =>
    call<string>({ call: 'table', document, frame, title, encoding }),
  within: (order: PictureOrder, part: Part, of: NamesOf, seen: Seen) =>
    call<string[]>({ call: 'within', order, part, of, seen }),
  values: (order: PictureOrder, places: readonly (readonly [number, number])[]) =>
    call<number[][]>({ call: 'values', order, places }),
  going: (
    document: ShotDocument,
    frame: number,
    places: readonly (readonly [number, number])[],
    layer: string | undefined,
  ) => call<Going[] | undefined>({ call: 'going', document, frame, places, layer }),
  read: (order: PictureOrder, u: number, v: number) => call<PixelReading>({ call: 'read', order, u, v }),
  /** names: of those things alone; none: of all. */
  spread: (
    document: ShotDocument,
    frame: number,
    layer: string | undefined,
    bins: number,
    { near, far }: { near: number; far: number },
    names: readonly string[] = [],
  ) => call<Float32Array>({ call: 'spread', document, frame, layer, bins, near, far, names }),
  /** Where each thing is seen, by its name. */
  thingsSeen: (document: ShotDocument, frame: number, layer: string | undefined) =>
    call<Record<string, ThingSeen>>({ call: 'thingsSeen', document, frame, layer }),
  highlight: (document: ShotDocument, frame: number, names: string[], seen: Seen, layer?: string) =>
    call<string>({ call: 'highlight', document, frame, names, seen, layer }),
  sceneInfo: (document: ShotDocument, frame: number) => call<SceneInfo>({ call: 'sceneInfo', document, frame }),
  /** Where the cut-out of a layer touches the ground in its own picture; null where nothing of it is seen. */
  touching: (document: ShotDocument, frame: number, layer: string) =>
    call<Touching | null>({ call: 'touching', document, frame, layer }),
  fileCamera: (document: ShotDocument, name?: string) =>
    call<CameraSettings | null>({ call: 'fileCamera', document, name }),
  placeFile: (document: ShotDocument, frame: number) =>
    call<{ place?: FilePlace; words?: string }>({ call: 'placeFile', document, frame }),
  /** Corners of a simple mesh without being pulled, in its own space; null where it is none. */
  corners: (document: ShotDocument, frame: number, name: string) =>
    call<Vector3[] | null>({ call: 'corners', document, frame, name }),
  edges: (document: ShotDocument, frame: number, names: string[]) =>
    call<ObjectEdges[]>({ call: 'edges', document, frame, names }),
  snap: (document: ShotDocument, frame: number, lines: { from: [number, number]; to: [number, number] }[]) =>
    call<SnappedLines>({ call: 'snap', document, frame, lines }),
  track: (document: ShotDocument, blob: string) => call<CameraTrack>({ call: 'track', document, blob }),
  findSun: (document: ShotDocument) => call<Omit<FoundSun, 'without'> | null>({ call: 'findSun', document }),
  /** Stops that the panorama's strength changes by. */
  greyCard: (document: ShotDocument, frame: number, place: GreyPlace) =>
    call<number>({ call: 'greyCard', document, frame, place }),
  mainLight: (document: ShotDocument) =>
    call<{ azimuth: number; elevation: number } | null>({ call: 'mainLight', document }),
  preview: (document: ShotDocument, frame: number, width: number, restart: boolean, plain: boolean) =>
    call<ScenePreview>({ call: 'preview', document, frame, width, restart, plain }),
}
