// The two kinds of long work on a shot: rendering its passes, and making a finished file.
import { passBlobAt } from '../core/shot/passFrames'
import type { Evaluator } from '../core/compose/evaluate'
import { deliver } from '../core/compose/deliver'
import { type DeliveryFormat, type PassFormat, DELIVERY_ENDINGS, MOVIE_ENDINGS } from '../core/compose/deliveries'
import { BadInput } from '../core/formats/errors'
import { writePng } from '../core/formats/png/png'
import { encodingOf } from '../core/colour/encoding'
import { compileScene } from '../core/render/compile'
import { passesToExr } from '../core/render/passfile'
import { BY_LIGHT, lightLayer, PASS_IDS } from '../core/render/passes'
import { beautyOf, type RenderedPasses } from '../core/render/planes'
import { denoisePasses, guidePasses, hasNoise } from '../core/render/denoise'
import { stripKept } from '../core/render/keptrows'
import { ofMoments, sharpen } from '../core/render/sharpData'
import { camerasAt, openShutter, othersAt } from '../core/render/shutter'
import { shutterAt, worldOf } from '../core/shot/shutter'
import { Render } from '../core/render/render'
import type { PictureReference, ShotDocument } from '../core/shot/document'
import { plateLight } from '../core/compose/platelight'
import { trueLensAt } from '../core/shot/trueLens'
import { widened, workingFrame } from '../core/shot/lens'
import { hasObjects, loadSceneFiles, needsPlate, sceneAt } from '../core/shot/scene'
import { readExr, writeExr } from '../core/formats/exr/exr'
import { passStamps, sceneStamp, touchedPasses } from '../core/shot/stamp'
import type { Rate } from '../core/time/rate'
import { mkdtemp, rm } from 'node:fs/promises'
import { IMPORTING, type BlobStore } from './blobs'
import { writeMovie, type MovieSettings } from './movie'
import { checkClip, clipOfSequence, clipOfVideo, type ImportOptions, type SequenceFile } from './clips'
import type { Engine } from './engine'
import { Unfinished } from './unfinished'
import { join } from 'node:path'

export class Cancelled extends Error {}
export interface Report {
  progress(share: number, message: string, preview?: Uint8Array): void
  cancelled(): boolean
}
export interface WorkResult {
  blob: string
  name: string
  bytes: number
  /** Numbered files of one job. */
  files?: { name: string; blob: string }[]
  passFile?: ShotDocument['passes']['file']
  clip?: PictureReference
  /** What is wrong though something was made. */
  words?: string
}

export interface ImportFiles extends ImportOptions {
  files: SequenceFile[]
  video: boolean
}

/** A clip of the files; the reference by which a document names it comes with the result. */
export async function importClip(
  store: BlobStore,
  { files, video, ...options }: ImportFiles,
  rate: Rate,
  report: Report,
): Promise<WorkResult> {
  const clip = video
    ? await clipOfVideo(store, files[0]!.blob, files[0]!.name, options)
    : await clipOfSequence(store, files, rate, report)
  return { blob: clip.blob, name: clip.name, bytes: await store.size(clip.blob), clip }
}

/** Looks through all of a clip; what it turned out to be, where that is another, comes with the result. */
export async function lookThrough(
  store: BlobStore,
  made: PictureReference,
  options: ImportOptions,
  report: Report,
): Promise<WorkResult> {
  const { clip, words } = await checkClip(store, made, options, report)
  return { blob: made.blob, name: made.name, bytes: await store.size(made.blob), clip, words }
}

const PREVIEW_WIDTH = 960
const PREVIEW_EVERY = 1500
/** Milliseconds after which a render is kept as far as it is, so that a killed server goes on with it. */
const KEEP_EVERY = 60000

export async function renderPasses(
  engine: Engine,
  evaluator: Evaluator,
  store: BlobStore,
  document: ShotDocument,
  frame: number,
  report: Report,
  all = false,
): Promise<WorkResult> {
  report.progress(0, 'reading the scene')
  const files = await loadSceneFiles(document, blob => store.get(blob))
  if (!hasObjects(document))
    throw new BadInput('There is no scene to render: bring one in at the station Scene, or draw a stand-in.')
  if (needsPlate(document)) files.plate = await plateLight(evaluator, document, frame)
  files.cards = await evaluator.cards(document, frame)
  const scene = sceneAt(document, files, frame)
  const settings = document.passes
  const working = workingFrame(document)
  // Passes that a change did not touch stay as they are
  const touched = all ? settings.selected : touchedPasses(document, frame)
  const file = settings.file
  const fits =
    file &&
    !file.frames &&
    file.width === Math.max(1, Math.round(working.width * settings.scale)) &&
    file.height === Math.max(1, Math.round(working.height * settings.scale))
  const stamps = passStamps(document, frame)
  const kept =
    fits && touched.length
      ? file.passes.filter(
          id =>
            !touched.includes(id) &&
            file.stamps?.[id] === stamps[id] &&
            (settings.selected.includes(id) || id === 'catcher_id'),
        )
      : []
  const wanted = kept.length ? touched : settings.selected
  // A catcher's own trims need to know which catcher a shadow falls on
  const selected =
    wanted.includes('shadow') && !wanted.includes('catcher_id') && !kept.includes('catcher_id')
      ? [...wanted, 'catcher_id']
      : wanted
  const width = Math.max(1, Math.round(working.width * settings.scale))
  const height = Math.max(1, Math.round(working.height * settings.scale))
  const world = worldOf(document, files)
  const denoises = settings.denoise !== false && hasNoise(selected)
  const keepNoise = hasNoise(selected) || settings.noiseLevel !== undefined
  const guides = denoises ? guidePasses(selected, scene.materials) : []
  const unfinished = new Unfinished(join(store.folder, 'unfinished'))
  const key = JSON.stringify([sceneStamp(document), frame, selected, guides, keepNoise])
  const compiled = compileScene(engine.kernels, scene, othersAt(world, selected, frame))
  const { shutter: said } = settings
  const gathered = ofMoments(selected, !!said?.sharpData)
  let shutter: ReturnType<typeof openShutter> | undefined
  try {
    shutter =
      said &&
      openShutter(engine.kernels, world, {
        ...{ shutter: shutterAt(said, frame), frame, still: compiled },
        passes: gathered,
      })
    const common = {
      width,
      height,
      samples: settings.samples,
      camera: widened(scene.camera, document),
      seed: settings.seed,
      maxBounces: settings.bounces,
      occlusionReach: settings.reach,
      occlusionFalloff: settings.falloff,
      occlusionCone: settings.cone,
      mist: settings.mist,
      limits: settings.limits,
      noiseLevel: settings.noiseLevel,
      lens: settings.lens && trueLensAt(settings.lens, frame),
      outline: settings.outline && { ...settings.outline, width: settings.outline.width * settings.scale },
      clampIndirect: settings.clamp,
      seeEnvironment: scene.environment?.seenByCamera,
      cryptoRanks: settings.ranks,
      moving: camerasAt(world, selected, frame),
    }
    const job = new Render(engine.pool, compiled, {
      ...common,
      passes: [...gathered, ...guides],
      keepNoise,
      settle: true,
      moments: shutter?.moments,
    })
    try {
      const before = await unfinished.read(key, 'sums')
      if (before) {
        const strips = await Promise.all(
          Array.from({ length: stripKept(before) }, (_, i) => unfinished.read(key, `strip ${i}`)),
        )
        if (strips.every(strip => strip)) job.goOn(before, strips as Uint8Array[])
      }
      let round = 1
      let shownAt = 0
      let keptAt = Date.now()
      const end = settings.minutes === undefined ? Infinity : Date.now() + settings.minutes * 60000
      const keep = async (): Promise<void> => {
        const bytes = job.kept()
        if (bytes) await unfinished.write(key, 'sums', bytes)
        keptAt = Date.now()
      }
      let strip = job.strip
      while (!job.done) {
        if (report.cancelled()) {
          await keep()
          throw new Cancelled()
        }
        if (Date.now() > end) {
          job.finishNow()
          if (!job.done && !job.wholePicture) {
            job.step(1)
            continue
          }
        }
        if (job.done) break
        job.step(round)
        round = Math.min(8, round * 2)
        // A strip that is done is kept at once, then that the next begins
        if (!job.done && job.strip > strip) {
          for (; strip < job.strip; strip++) await unfinished.write(key, `strip ${strip}`, job.keptStrip(strip))
          await keep()
        }
        const now = Date.now()
        if (now - keptAt > KEEP_EVERY) await keep()
        const show = !job.done && now - shownAt > PREVIEW_EVERY
        if (show) shownAt = now
        report.progress(
          job.progress * 0.97,
          `${job.done ? settings.samples : job.samplesSoFar} of ${settings.samples} samples`,
          show ? preview(job.snapshot(false)) : undefined,
        )
        // Lets messages and timers of this thread through
        await new Promise(resolve => setImmediate(resolve))
      }
      report.progress(0.97, denoises ? 'taking out noise' : 'writing the passes')
      const objects = compiled.objects.map(object => object.name)
      const standIns = compiled.objects.filter(({ role, laid }) => role !== 'object' || laid).map(object => object.name)
      const materials = compiled.materials.map(material => material.name)
      const passes = job.snapshot()
      const clean = denoises ? denoisePasses(engine.pool, passes) : undefined
      if (said?.sharpData) sharpen(passes, engine.pool, compiled, { ...common, passes: selected })
      const bytes = passesToExr(passes, {
        passes: selected,
        objectNames: objects,
        materialNames: materials,
        assetNames: compiled.assets,
        lightGroups: compiled.lightGroups,
        clean,
        keep: kept.length ? { image: readExr(await store.get(file!.blob)), passes: kept } : undefined,
        half: true,
        parts: true,
      })
      await unfinished.forget(key)
      const blob = await store.put(bytes)
      const name = `passes of frame ${frame}.exr`
      return {
        blob,
        name,
        bytes: bytes.length,
        passFile: {
          blob,
          name,
          width,
          height,
          passes: PASS_IDS.filter(id => selected.includes(id) || kept.includes(id)),
          margin: [working.left, working.top],
          objects,
          ...(standIns.length ? { standIns } : {}),
          materials,
          ...(clean || (kept.length && file!.clean) ? { clean: true } : {}),
          ...(selected.includes(BY_LIGHT)
            ? { lights: compiled.lightGroups.map(name => lightLayer(name).slice(BY_LIGHT.length + 1)) }
            : kept.includes(BY_LIGHT)
              ? { lights: file!.lights }
              : {}),
          stamps,
          of: sceneStamp(document),
        },
      }
    } finally {
      job.dispose()
    }
  } finally {
    shutter?.dispose()
    compiled.dispose()
  }
}

/** The picture so far as a small PNG with straight alpha; objects' surface colour where no light was asked for. */
function preview(passes: RenderedPasses): Uint8Array {
  const step = Math.max(1, Math.ceil(passes.width / PREVIEW_WIDTH))
  const width = Math.floor(passes.width / step)
  const height = Math.floor(passes.height / step)
  const colour = passes.light
    ? beautyOf(passes)
    : (passes.albedo ??
      Float32Array.from({ length: passes.alpha.length * 3 }, (_, i) => passes.alpha[Math.floor(i / 3)]!))
  const encode = encodingOf('srgb').encode!
  const data = new Uint8Array(width * height * 4)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const from = y * step * passes.width + x * step
      const to = (y * width + x) * 4
      const alpha = passes.alpha[from]!
      for (let c = 0; c < 3; c++)
        data[to + c] = Math.min(
          255,
          Math.max(0, Math.round(encode(alpha > 0 ? colour[from * 3 + c]! / alpha : colour[from * 3 + c]!) * 255)),
        )
      data[to + 3] = Math.round(alpha * 255)
    }
  }
  return writePng({ width, height, channels: 4, maximum: 255, data })
}

export async function makeFile(
  engine: Engine,
  evaluator: Evaluator,
  store: BlobStore,
  document: ShotDocument,
  frame: number,
  format: DeliveryFormat | PassFormat,
  shotName: string,
  report: Report,
): Promise<WorkResult> {
  const plain = shotName.replace(/[^\p{L}\p{N} ._-]+/gu, ' ').trim() || 'shot'
  if (format === 'passes' || format === 'passes_parts') {
    const file = document.passes.file
    if (!file) throw new BadInput('There are no passes yet: render them at the station Passes.')
    const { blob, own } = passBlobAt(file, frame)
    if (!own) throw new BadInput(`Frame ${frame} has no passes yet.`)
    const name = file.frames ? `${plain} passes ${frame}.exr` : `${plain} passes.exr`
    if (format === 'passes_parts') return { blob, name, bytes: await store.size(blob) }
    report.progress(0.1, 'putting the passes together')
    const whole = await store.put(writeExr(readExr(await store.get(blob))))
    return { blob: whole, name, bytes: await store.size(whole) }
  }
  report.progress(0.1, 'building the picture')
  const bytes = await deliver(evaluator, { document, frame, show: { kind: 'finish' } }, format)
  if (report.cancelled()) throw new Cancelled()
  report.progress(0.6, 'writing the file')
  const blob = await store.put(bytes)
  return { blob, name: `${plain}.${DELIVERY_ENDINGS[format]}`, bytes: bytes.length }
}

/** A movie of frames that are files of the store. Made beside the store and taken into it. */
export async function makeMovie(
  store: BlobStore,
  frames: readonly string[],
  settings: MovieSettings,
  report: Report,
): Promise<WorkResult> {
  const folder = await mkdtemp(join(store.folder, IMPORTING))
  const path = join(folder, `movie.${MOVIE_ENDINGS[settings.format]}`)
  try {
    await writeMovie(
      path,
      (async function* () {
        for (const blob of frames) yield await store.get(blob)
      })(),
      settings,
      report,
    )
    const blob = await store.adopt(path)
    return { blob, name: '', bytes: await store.size(blob) }
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}
