// The engine in the browser: the same core as the server's, over a pool of nested workers.
import { writeCube } from '../../core/formats/cube/cube'
import { grainOf } from '../../core/measure/grain'
import { likenessOf, type Likeness } from '../../core/measure/likeness'
import { measureLight, type LightMeasure, type Plane } from '../../core/measure/light'
import { markLight } from '../../core/measure/marks'
import { displayCodes } from '../../core/compose/deliver'
import { useCodecFiles } from '../../core/formats/gltf/codecs'
import { factsOf, guessAlpha, guessEncoding } from '../../core/formats/picture/describe'
import { withNames } from '../../core/formats/cryptomatte/named'
import { lensOf } from '../../core/formats/picture/exif'
import { fromCodes, readPicture } from '../../core/formats/picture/picture'
import { measureFit } from '../../core/compose/fit'
import { Evaluator } from '../../core/compose/evaluate'
import { frameSize, workSize } from '../../core/compose/request'
import { heightOf, widthOf } from '../../core/engine/box'
import { Kernels } from '../../core/engine/memory'
import { byteRestorer } from '../../core/engine/unpack'
import { useRestorer } from '../../core/formats/exr/bytes'
import { Pool, Stopped } from '../../core/engine/pool'
import { contentOf, openPassFile, unpacking } from '../../core/render/openpasses'
import { plateDepthOf } from '../../core/render/plateDepth'
import { readSo, theirsOf } from '../../core/render/theirs'
import type { Seen } from '../../core/render/passes'
import { depthSpread, thingsSeen } from '../../core/compose/sounded'
import { irradianceOn, meanAbout, stopsToMatch } from '../../core/match/greycard'
import { edgePicture, snapLine } from '../../core/match/snap'
import { borderPath } from '../../core/compose/border'
import { plateLight } from '../../core/compose/platelight'
import { findSun, mainLightOf, type FoundSun } from '../../core/scene/environmentSun'
import { foldEdges } from '../../core/scene/edges'
import { cornersOfObject, objectsOf } from '../../core/shot/objects'
import { useSmallDecoder } from '../../core/compose/files'
import {
  fileSceneAt,
  loadSceneFiles,
  needsPlate,
  placedMatrix,
  sceneAt,
  sceneFilesKey,
  settingsOfCamera,
  type SceneFiles,
} from '../../core/shot/scene'
import { placeFile } from '../../core/shot/fit'
import { valueAt } from '../../core/time/curve'
import { trackFrom } from '../../core/shot/track'
import type { ShotDocument } from '../../core/shot/document'
import { followed } from '../../core/shot/patch'
import { ScenePreviewer } from './preview'
import { going, read, request, values, within } from './reading'
import { sceneInfoOf } from './sceneInfo'
import type {
  EngineCall,
  GreyPlace,
  ObjectEdges,
  Picture,
  PictureDescription,
  PictureOrder,
  SnappedLines,
  Told,
} from './messages'
import BandWorker from './band.worker?worker'

const MAXIMUM_THREADS = 8

async function load(blob: string): Promise<Uint8Array> {
  const answer = await fetch(`/api/blobs/${blob}`)
  if (!answer.ok) throw new Error('A file of this shot cannot be fetched from the server.')
  return new Uint8Array(await answer.arrayBuffer())
}

async function start(): Promise<{ pool: Pool; evaluator: Evaluator; previewer: ScenePreviewer }> {
  const module = await WebAssembly.compileStreaming(fetch('/kernels/northmist.wasm'))
  const pool = new Pool(new Kernels(module))
  useRestorer(byteRestorer(pool.kernels))
  useCodecFiles(async file => {
    const answer = await fetch(`/codecs/${file}`)
    if (!answer.ok) throw new Error('The decoder that this scene needs cannot be fetched from the server.')
    return new Uint8Array(await answer.arrayBuffer())
  })
  const threads = Math.min(MAXIMUM_THREADS, Math.max(1, navigator.hardwareConcurrency || 2))
  for (let i = 1; i < threads; i++) {
    const worker = new BandWorker()
    const ready = new Promise(resolve => {
      worker.onmessage = resolve
    })
    worker.postMessage(pool.addWorker())
    await ready
  }
  const evaluator = new Evaluator(pool, load)
  return { pool, evaluator, previewer: new ScenePreviewer(pool, evaluator) }
}
const engine = start()

let filesKey = ''
let files: SceneFiles = {}
/** Scene, environment and laid-on pictures of the document, read once. */
async function filesOf(document: ShotDocument): Promise<SceneFiles> {
  const key = sceneFilesKey(document)
  if (key !== filesKey) {
    files = await loadSceneFiles(document, load)
    filesKey = key
  }
  return files
}

/** A JPEG by the browser's own decoder, as its codes stand. */
useSmallDecoder(async bytes => {
  const bitmap = await createImageBitmap(new Blob([new Uint8Array(bytes)], { type: 'image/jpeg' }), {
    colorSpaceConversion: 'none',
  })
  const { width, height } = bitmap
  const context = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!
  context.drawImage(bitmap, 0, 0)
  bitmap.close()
  const data = new Uint8Array(context.getImageData(0, 0, width, height).data.buffer)
  return fromCodes('jpeg', { width, height, channels: 4, maximum: 255, data })
})

/** What the page has turned to by now. */
let turn: Int32Array | undefined
const isPast = (wanted: number | undefined): boolean => wanted !== undefined && !!turn && Atomics.load(turn, 0) > wanted

async function picture(order: PictureOrder): Promise<Picture> {
  const { pool, evaluator } = await engine
  if (isPast(order.turn)) throw new Stopped()
  const started = performance.now()
  const { area } = order
  const stop = (): boolean => isPast(order.turn)
  const result = await evaluator.evaluate(request(order), { area, stop })
  const codes = displayCodes(pool, result, order.view ?? order.document.view, 2 ** order.stops, order.channel)
  const { left, top, width, height } = result
  if (order.marks?.length)
    markLight(pool.kernels.floats(result.pointer, width * height * 4), codes, width, order.marks, left, top)
  const whole = frameSize(order)
  return {
    width,
    height,
    codes,
    ...(area ? { part: { left, top, width: whole.width, height: whole.height } } : {}),
    milliseconds: performance.now() - started,
  }
}

/** What the light of a picture is like. */
async function measure(order: PictureOrder, on: Plane): Promise<LightMeasure> {
  const { pool, evaluator } = await engine
  const result = await evaluator.evaluate(request(order), { area: order.area })
  const codes = displayCodes(pool, result, order.view ?? order.document.view)
  const { pointer, width, height } = result
  return measureLight(pool.kernels.floats(pointer, width * height * 4), codes, width, on)
}

/** Colours to a side of a table that is written: common practice, no source. */
const TABLE_SIDE = 33

async function likeness(order: PictureOrder, withGrain: boolean): Promise<Likeness | undefined> {
  const { pool, evaluator } = await engine
  const { width, height } = frameSize(order)
  const area = order.area ?? { left: 0, top: 0, right: width, bottom: height }
  const { pointer } = await evaluator.evaluate(request(order), { area })
  const pixels = pool.kernels.floats(pointer, widthOf(area) * heightOf(area) * 4)
  const found = likenessOf(pixels)
  return found && { ...found, grain: withGrain ? grainOf(pixels, widthOf(area)) : undefined }
}

/** Reads a file for what it is; its pixels are let go again. */
async function describe(file: File): Promise<PictureDescription> {
  const bytes = new Uint8Array(await file.arrayBuffer())
  const picture = await readPicture(bytes)
  const { width, height, dataWindow, displayWindow } = picture
  const facts = { ...factsOf(picture), ...(await lensOf(bytes)) }
  const notes: string[] = []
  if (facts.bits === 8) notes.push('8 bits a channel: strong grades of smooth areas may show bands.')
  if (dataWindow && displayWindow && JSON.stringify(dataWindow) !== JSON.stringify(displayWindow))
    notes.push('Its pixels cover another area than its frame; the frame is used.')
  return { width, height, ...guessEncoding(picture), alpha: guessAlpha(picture, facts.alpha), facts, notes }
}

/** The border of named things, where they cover half of a pixel: an SVG path in pixels of the frame; none: ''. */
async function highlight(
  document: ShotDocument,
  at: number,
  names: string[],
  seen: Seen,
  layer?: string,
): Promise<string> {
  const { pool, evaluator } = await engine
  const matte = await evaluator.matte(document, at, { names, of: 'objects', seen, invert: false }, layer)
  if (!matte) return ''
  const size = workSize({ document, shrink: 1 })
  return borderPath(
    pool.kernels.floats(matte.pointer, matte.width * matte.height),
    size,
    frameSize({ document, shrink: 1 }),
  )
}

async function edges(document: ShotDocument, frame: number, names: string[]): Promise<ObjectEdges[]> {
  return objectsOf(document, fileSceneAt(document, await filesOf(document), frame), frame)
    .objects.filter(object => names.includes(object.name))
    .map(object => ({
      name: object.name,
      lines: foldEdges(object.parts, placedMatrix(object, document.scene.objects[object.name], frame)),
    }))
}

/** On the straight plate at full size, as lines are drawn on it. */
async function snap(
  document: ShotDocument,
  frame: number,
  lines: { from: [number, number]; to: [number, number] }[],
): Promise<SnappedLines> {
  const { pool, evaluator } = await engine
  const { width, height, pointer } = await evaluator.evaluate({
    document,
    frame,
    shrink: 1,
    show: { kind: 'plate', straight: true },
  })
  const picture = edgePicture(pool.kernels.floats(pointer, width * height * 4), width, height)
  return lines.map(line => snapLine(picture, width, height, line.from, line.to) ?? null)
}

/** What the straight plate shows at a place against what the panorama, as strong as it is now, would make of it. */
async function greyCard(document: ShotDocument, frame: number, { u, v, reflects, normal }: GreyPlace): Promise<number> {
  const { evaluator } = await engine
  const { environment } = await filesOf(document)
  const settings = document.scene.environment
  if (!environment || !settings) throw new Error('There is no panorama yet.')
  const shown = meanAbout(await plateLight(evaluator, document, frame), u, v)
  const light = irradianceOn({ ...environment, turn: valueAt(settings.turn, frame) }, normal)
  return stopsToMatch(shown, light, reflects) - valueAt(settings.stops, frame)
}

async function environmentSun(document: ShotDocument): Promise<Omit<FoundSun, 'without'> | null> {
  const { environment } = await filesOf(document)
  const found = environment && findSun(environment.pixels, environment.width, environment.height)
  return found
    ? { azimuth: found.azimuth, elevation: found.elevation, diameter: found.diameter, irradiance: found.irradiance }
    : null
}

async function answer(call: EngineCall): Promise<unknown> {
  const { evaluator, previewer } = await engine
  switch (call.call) {
    case 'describe':
      return describe(call.file)
    case 'describePasses': {
      const file = await openPassFile(new Uint8Array(await call.file.arrayBuffer()))
      return (await unpacking(() => contentOf(file))) ?? null
    }
    case 'theirs':
      return (await theirsOf(new Uint8Array(await call.file.arrayBuffer()))) ?? null
    case 'withNames': {
      const bytes = new Uint8Array(await call.file.arrayBuffer())
      const named = withNames(bytes, call.names)
      return named === bytes ? null : named
    }
    case 'readSo':
      return readSo(new Uint8Array(await call.file.arrayBuffer()), call.reading)
    case 'plateDepth':
      return plateDepthOf(new Uint8Array(await call.file.arrayBuffer()))
    case 'turn':
      turn = new Int32Array(call.turn)
      return null
    case 'picture':
      return picture(call.order)
    case 'values':
      return values(await engine, call.order, call.places)
    case 'going':
      return going(await engine, call)
    case 'within':
      return within(await engine, call.order, call.part, call.of, call.seen)
    case 'read':
      return read(await engine, call.order, call.u, call.v)
    case 'measure':
      return measure(call.order, call.on)
    case 'table':
      return writeCube(await evaluator.table(call.document, call.frame, TABLE_SIDE, call.encoding), call.title)
    case 'fit':
      return measureFit(evaluator, call.document, call.frame, call.layer)
    case 'likeness':
      return likeness(call.order, call.grain)
    case 'spread': {
      const file = await evaluator.files.passesAt(call.document, call.frame, call.layer, true)
      const { bins, near, far, names } = call
      return file ? unpacking(() => depthSpread(file, bins, near, far, names)) : new Float32Array(bins)
    }
    case 'thingsSeen': {
      const file = await evaluator.files.passesAt(call.document, call.frame, call.layer)
      return file ? unpacking(() => thingsSeen(file)) : {}
    }
    case 'highlight':
      return highlight(call.document, call.frame, call.names, call.seen, call.layer)
    case 'sceneInfo':
      return sceneInfoOf(call.document, await filesOf(call.document), call.frame)
    case 'touching':
      return (await evaluator.touching(call.document, call.frame, call.layer)) ?? null
    case 'fileCamera': {
      const scene = fileSceneAt(call.document, await filesOf(call.document), call.document.frames.first)
      const camera = call.name ? scene?.cameras.find(camera => camera.name === call.name) : scene?.camera
      return camera ? settingsOfCamera(camera) : null
    }
    case 'placeFile': {
      const { scene } = await filesOf(call.document)
      const placed = structuredClone(call.document)
      const words = scene && placeFile(placed, scene, call.frame)
      return { place: placed.scene.filePlace, words }
    }
    case 'corners': {
      const scene = fileSceneAt(call.document, await filesOf(call.document), call.frame)
      return cornersOfObject(call.document, scene, call.frame, call.name) ?? null
    }
    case 'edges':
      return edges(call.document, call.frame, call.names)
    case 'snap':
      return snap(call.document, call.frame, call.lines)
    case 'track':
      return trackFrom(await load(call.blob), call.document.rate)
    case 'findSun':
      return environmentSun(call.document)
    case 'greyCard':
      return greyCard(call.document, call.frame, call.place)
    case 'mainLight': {
      const { environment } = await filesOf(call.document)
      return environment ? mainLightOf(environment.pixels, environment.width, environment.height) : null
    }
    case 'preview': {
      const loaded = { ...(await filesOf(call.document)) }
      if (call.restart && needsPlate(call.document))
        loaded.plate = await plateLight(evaluator, call.document, call.frame)
      if (call.restart) loaded.cards = await evaluator.cards(call.document, call.frame)
      return previewer.step(call.document, call.frame, call.width, call.restart, call.plain, () =>
        sceneAt(call.document, loaded, call.frame),
      )
    }
  }
}

// Calls are answered one after another: the memory of results belongs to one evaluation at a time. What is looked at
// goes first
const waiting: ({ id: number } & EngineCall)[] = []
let busy = false
async function work(): Promise<void> {
  if (busy) return
  busy = true
  while (waiting.length) {
    const first = waiting.findIndex(call => call.call === 'picture')
    const [{ id, ...call }] = waiting.splice(Math.max(0, first), 1) as [{ id: number } & EngineCall]
    try {
      const result = await answer(call as EngineCall)
      const pictured = result as { codes?: Uint8ClampedArray; picture?: { shown: { codes: Uint8ClampedArray } } } | null
      const codes = pictured?.codes ?? pictured?.picture?.shown.codes
      self.postMessage({ id, result }, { transfer: codes ? [codes.buffer] : [] })
    } catch (error) {
      self.postMessage(error instanceof Stopped ? { id, dropped: true } : { id, error: (error as Error).message })
    }
    await breath()
  }
  busy = false
}

/** Lets calls that came meanwhile into the list; at once, where a timer would wait for some milliseconds. */
const channel = new MessageChannel()
const breath = (): Promise<unknown> =>
  new Promise(resolve => {
    channel.port1.onmessage = resolve
    channel.port2.postMessage(null)
  })

/** The document that the page told of last; what is made of it is never changed. */
let told = {} as ShotDocument
function whole(call: EngineCall): EngineCall {
  const known = (document: ShotDocument): ShotDocument => {
    told = followed(told, (document as unknown as Told).steps)
    return told
  }
  if ('order' in call) return { ...call, order: { ...call.order, document: known(call.order.document) } }
  return 'document' in call ? ({ ...call, document: known(call.document) } as EngineCall) : call
}
self.onmessage = ({ data: { id, ...call } }: MessageEvent<{ id: number } & EngineCall>) => {
  waiting.push({ id, ...whole(call as EngineCall) })
  void work()
}
