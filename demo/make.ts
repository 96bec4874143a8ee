// Makes the demo's files into demo/assets: node tools/run-demo.mjs [plate] [night] [night-passes] [survey-passes] [figures] [scene] [passes] [pictures]
// [survey] [shots], all of them without arguments.
import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { encodingOf } from '../core/colour/encoding'
import { floatsToHalves } from '../core/formats/exr/half'
import { writeExr } from '../core/formats/exr/write'
import { writeHdr } from '../core/formats/hdr/hdr'
import { readPng, writePng } from '../core/formats/png/png'
import { Evaluator } from '../core/compose/evaluate'
import { deliver } from '../core/compose/deliver'
import { writeJpeg } from '../core/formats/jpeg/jpeg'
import { compileScene } from '../core/render/compile'
import { beautyOf, type RenderedPasses } from '../core/render/planes'
import { OUTLINE } from '../core/render/outline'
import { readPassFile } from '../core/render/openpasses'
import { eachPass, lightLayer, NO_DEPTH, PASS_IDS, seenPlain } from '../core/render/passes'
import { Render } from '../core/render/render'
import type { Camera, Scene } from '../core/scene/scene'
import { cameraAt } from '../core/shot/scene'
import {
  DEFAULT_CAMERA,
  type AirSettings,
  type CameraSettings,
  type PictureReference,
  type ShotDocument,
} from '../core/shot/document'
import { rowsOf } from '../core/shot/rows'
import { clipOfVideo, withClips } from '../host/clips'
import { BlobStore } from '../host/blobs'
import { startEngine, type Engine } from '../host/engine'
import { projectRoot } from '../host/root'
import { demoFile, demoFolder, isPieceOf } from '../host/demofile'
import { renderPasses } from '../host/work'
import { SIZE, type DemoShot, type MadePasses } from './demoShot'
import { figures } from './figures'
import { harbour, HAZE, HAZE_REACH } from './harbour'
import { bellHouse, CAMERA } from './house'
import { NIGHT_CAMERA, NIGHT_HAZE, NIGHT_REACH, nightHarbour, nightPanorama } from './night'
import { lightTower } from './lightTower'
import { LENS, photograph, seenAt, type LensData } from './lens'
import { writeTrack } from '../core/track/track'
import { balloonScene } from './balloon'
import { haarSky, surveyTrack } from './shore'
import { bytesOf, makeFootage, makeSmoke, makeSpray } from './survey'
import { shotsOfDemo } from './shots'
import { surveyPasses } from './surveyShot'
import { skyPanorama } from './sky'

const folder = demoFolder()
/** Larger files are kept in pieces, below what hosts of repositories like to hold. */
const PIECE = 3_900_000
/** The font of the words at night, SIL OFL 1.1. */
const OSWALD = 'node_modules/@fontsource-variable/oswald/files/oswald-latin-wght-normal.woff2'
const quick = Number(process.env.DEMO_QUICK ?? 1)

function keep(name: string, bytes: Uint8Array): void {
  for (const old of readdirSync(folder)) if (old === name || isPieceOf(old, name)) rmSync(join(folder, old))
  if (bytes.length <= PIECE) writeFileSync(join(folder, name), bytes)
  else
    for (let i = 0; i * PIECE < bytes.length; i++)
      writeFileSync(join(folder, `${name}.${String(i).padStart(3, '0')}`), bytes.subarray(i * PIECE, (i + 1) * PIECE))
  console.log(`${name}: ${(bytes.length / 1e6).toFixed(2)} MB`)
}

function trace(
  engine: Engine,
  scene: Scene,
  camera: Camera,
  width: number,
  height: number,
  samples: number,
  seeEnvironment: boolean,
): RenderedPasses {
  const compiled = compileScene(engine.kernels, scene)
  const render = new Render(engine.pool, compiled, {
    width,
    height,
    samples,
    camera,
    passes: ['beauty', 'alpha', 'depth'],
    seeEnvironment,
    clampIndirect: 4,
    maxBounces: 4,
  })
  const started = Date.now()
  while (!render.done) {
    render.step(8)
    process.stdout.write(`\r${Math.round(render.progress * 100)} % ${Math.round((Date.now() - started) / 1000)} s `)
  }
  const passes = render.snapshot()
  render.dispose()
  compiled.dispose()
  console.log()
  return passes
}

interface Photographed {
  name: string
  scene: Scene
  camera: Partial<CameraSettings>
  samples: number
  /** Haze that far things fade into, and how many metres take most of their contrast. */
  haze: readonly number[]
  reach: number
  lens: LensData
  exposure: number
  /** Its depth is kept beside it. */
  hasDepth: boolean
}
function makePlate(
  engine: Engine,
  { name, scene, camera, samples, haze, reach, lens, exposure, hasDepth }: Photographed,
): void {
  const { width, height } = SIZE
  const seenBy = cameraAt({ ...DEFAULT_CAMERA, ...camera }, 1)
  const passes = trace(engine, scene, seenBy, width, height, Math.max(4, Math.round(samples / quick)), true)
  const light = beautyOf(passes)
  for (let i = 0; i < width * height; i++) {
    const metres = passes.depth[i]!
    if (metres > 1e9) continue
    const clear = Math.exp(-metres / reach)
    for (let c = 0; c < 3; c++) light[i * 3 + c] = light[i * 3 + c]! * clear + haze[c]! * (1 - clear)
  }
  const seen = photograph(width, height, light, lens)
  const encode = encodingOf('srgb').encode!
  const data = new Uint8Array(width * height * 3)
  for (let i = 0; i < data.length; i++) data[i] = Math.round(Math.min(1, encode(seen[i]! * exposure + 0.0045)) * 255)
  keep(`${name}.png`, writePng({ width, height, channels: 3, maximum: 255, data }))
  if (hasDepth) keep(`${name} depth.exr`, depthFile(passes, width, height, lens))
  writeFileSync(
    join(folder, `${name}.camera.json`),
    JSON.stringify(
      {
        camera,
        lens,
        exposure,
        note: `True camera of the made-up photograph ${name}.png: metres, millimetres, degrees.`,
      },
      null,
      2,
    ),
  )
}
/** One over the distance, bent as the photograph is; 0 is for ever away. */
function depthFile({ depth }: RenderedPasses, width: number, height: number, lens: LensData): Uint8Array {
  const data = new Float32Array(width * height)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [sx, sy] = seenAt(width, height, lens, x, y)
      const [px, py] = [clamped(Math.round(sx), width), clamped(Math.round(sy), height)]
      data[y * width + x] = 1 / depth[py * width + px]!
    }
  const box = { xMin: 0, yMin: 0, xMax: width - 1, yMax: height - 1 }
  return writeExr({
    ...{ dataWindow: box, displayWindow: box, compression: 'zip', attributes: [] },
    channels: [{ name: 'depth', type: 'half', linear: false, data: floatsToHalves(data) }],
  })
}
const clamped = (value: number, size: number): number => Math.min(size - 1, Math.max(0, value))

/** Exposed like a photograph of the hour: a good stop up. */
const quayPlate = (): Photographed => ({
  ...{ name: 'quay', scene: harbour(quick > 1 ? 2048 : 4096), camera: CAMERA, samples: 144 },
  ...{ haze: HAZE, reach: HAZE_REACH, lens: LENS, exposure: 2.3, hasDepth: false },
})
const nightPlate = (): Photographed => ({
  ...{ name: 'night harbour', scene: nightHarbour(), camera: NIGHT_CAMERA, samples: 256 },
  ...{ haze: NIGHT_HAZE, reach: NIGHT_REACH, lens: { ...LENS, k1: 0, grain: 0.006 }, exposure: 3, hasDepth: true },
})

function makeFigures(engine: Engine): void {
  const width = 450
  const height = 720
  const focal = 240
  const passes = trace(
    engine,
    figures(),
    cameraAt({ ...DEFAULT_CAMERA, focalLength: focal, y: 1.62, z: 9, pitch: -4.2, x: 0, heading: 0 }, 1),
    width,
    height,
    Math.max(8, Math.round(256 / quick)),
    false,
  )
  const light = beautyOf(passes)
  const encode = encodingOf('srgb').encode!
  const data = new Uint16Array(width * height * 4)
  for (let i = 0; i < width * height; i++) {
    const alpha = passes.alpha[i]!
    for (let c = 0; c < 3; c++)
      data[i * 4 + c] = alpha > 0 ? Math.round(Math.min(1, encode((light[i * 3 + c]! / alpha) * 2.3)) * 65535) : 0
    data[i * 4 + 3] = Math.round(alpha * 65535)
  }
  keep('figures on the quay.png', writePng({ width, height, channels: 4, maximum: 65535, data }))
}

/** The passes of a shot, of what it names @file; one file for each frame. */
async function makePasses(
  engine: Engine,
  shot: DemoShot,
  name: string,
  fileOf: (frame: number) => string,
): Promise<void> {
  const store = new BlobStore(join(projectRoot(), '.build/demo-blobs'))
  const document = JSON.parse(JSON.stringify(shot.document)) as ShotDocument
  for (const held of [document.scene.file, document.scene.environment])
    if (held) held.blob = await store.put(demoFile(held.blob.slice(1)))
  document.passes.file = null
  document.passes.samples = Math.max(4, Math.round(document.passes.samples / quick))
  const evaluator = new Evaluator(engine.pool, blob => store.get(blob))
  for (let frame = document.frames.first; frame <= document.frames.last; frame++) {
    const result = await renderPasses(engine, evaluator, store, document, frame, {
      progress: (share, message) => process.stdout.write(`\r${Math.round(share * 100)} % ${message}    `),
      cancelled: () => false,
    })
    console.log()
    keep(fileOf(frame), await store.get(result.blob))
    const { objects, standIns, materials, passes, lights, clean } = result.passFile!
    const made: MadePasses = { objects, standIns, materials, passes, lights, clean }
    writeFileSync(join(folder, `${name} passes.json`), JSON.stringify(made))
  }
}

/** DEMO_ONLY=footage,spray,smoke makes only those. */
async function makeSurvey(engine: Engine): Promise<void> {
  const only = process.env.DEMO_ONLY?.split(',')
  const wants = (name: string): boolean => !only || only.includes(name)
  const scratch = (name: string): string => join(projectRoot(), '.build', name)
  const glb = await balloonScene()
  keep('survey balloon.glb', glb)
  writeFileSync(join(folder, 'survey.track.json'), writeTrack(surveyTrack()))
  keep('haar.hdr', writeHdr(haarSky(256)))
  const make = async (name: string, wanted: string, work: (path: string) => Promise<void>): Promise<void> => {
    if (!wants(wanted)) return
    await work(scratch(name))
    keep(name, bytesOf(scratch(name)))
  }
  await make('spray.mp4', 'spray', makeSpray)
  await make('smoke.mp4', 'smoke', makeSmoke)
  await make('survey.mp4', 'footage', path => makeFootage(engine, path, quick))
}

async function makeShots(engine: Engine): Promise<void> {
  const list = shotsOfDemo()
  const store = new BlobStore(join(projectRoot(), '.build/demo-blobs'))
  const clips = new Map<string, PictureReference>()
  const evaluator = new Evaluator(engine.pool, async blob =>
    blob.startsWith('@') ? demoFile(blob.slice(1)) : store.get(blob),
  )
  for (const shot of list) {
    const document = await withClips(
      shot.document,
      async file =>
        clips.get(file) ?? clips.set(file, await clipOfVideo(store, await store.put(demoFile(file)), file)).get(file)!,
    )
    const { first, last } = document.frames
    const frame = Math.round(first + (last - first) * 0.75)
    const finished = { document, frame, show: { kind: 'finish' } } as const
    writeFileSync(join(projectRoot(), '.build/demo.png'), await deliver(evaluator, finished, 'png8'))
    const png = readPng(await deliver(evaluator, { ...finished, shrink: 2 }, 'png8'))
    keep(shot.thumbnail, writeJpeg(png, 88))
  }
  writeFileSync(join(folder, 'shots.json'), `${JSON.stringify(list, null, 1)}\n`)
}

/** A small picture of every pass, for the handbook, as the pass sheet shows them. */
async function makePictures(engine: Engine): Promise<void> {
  const store = new BlobStore(join(projectRoot(), '.build/demo-blobs'))
  const evaluator = new Evaluator(engine.pool, blob => store.get(blob))
  const [shot] = shotsOfDemo()
  const to = join(projectRoot(), 'docs/passes')
  const document = JSON.parse(JSON.stringify(shot.document)) as typeof shot.document
  const { scene, passes } = document
  mkdirSync(to, { recursive: true })
  document.plate = null
  for (const layer of Object.values(document.build.layers))
    if (layer.kind === 'picture') delete document.build.layers[layer.id]
  scene.file!.blob = await store.put(demoFile('bell house.glb'))
  scene.environment!.blob = await store.put(demoFile('blue hour.hdr'))
  // Seen, wet, chosen and on the move, so that every pass has something to show
  scene.environment!.seen = true
  scene.objects = { ...scene.objects, quay: { wet: 1, wetRoughness: 0.1 }, bell: { ownShadow: true } }
  scene.volumes = rowsOf<AirSettings>([
    {
      id: 'mist',
      name: 'mist',
      on: true,
      shape: 'space',
      x: 0,
      y: 0,
      z: 0,
      width: 1,
      height: 1,
      depth: 1,
      half: 12,
      colour: [0.9, 0.9, 0.9],
      forward: 0.5,
      noise: 0.7,
      noiseSize: 1.5,
      seed: 3,
      base: 0,
      halfHeight: 1.2,
    },
  ])
  scene.camera.heading = {
    keys: [0, 2].map(frame => ({
      frame,
      value: Number(scene.camera.heading) + frame * 0.4 - 0.4,
      ease: 'linear' as const,
    })),
  }
  Object.assign(passes, {
    scale: 0.25,
    samples: Math.max(4, Math.round(96 / quick)),
    selected: [...PASS_IDS],
    file: null,
    mist: { near: 8, far: 30 },
    outline: { ...OUTLINE, width: 6 },
  })
  const made = await renderPasses(engine, evaluator, store, document, 1, {
    progress: (share, message) => process.stdout.write(`\r${Math.round(share * 100)} % ${message}    `),
    cancelled: () => false,
  })
  passes.file = made.passFile!
  const depths = (await readPassFile(await store.get(made.blob))).planes
    .get('depth.Z')!
    .filter(value => value < NO_DEPTH / 2)
  const near = depths.reduce((a, b) => Math.min(a, b))
  const far = depths.reduce((a, b) => Math.max(a, b))
  for (const id of eachPass(made.passFile!.passes, made.passFile!.lights)) {
    if (id.startsWith('by_light.') && id !== lightLayer('left lamp')) continue
    const show = { kind: 'pass', id, near, far: id.startsWith('mirrored') ? far * 2 : far } as const
    const png = await deliver(
      evaluator,
      { document, frame: 1, shrink: 4, show },
      'png8',
      seenPlain(id) ? 'plain' : document.view,
    )
    writeFileSync(join(to, `${id.replace(/\..*/, '')}.jpg`), writeJpeg(readPng(png), 86))
  }
}

async function main(): Promise<void> {
  mkdirSync(folder, { recursive: true })
  const wanted = process.argv.slice(2)
  const all = !wanted.length
  const engine = await startEngine()
  try {
    if (all || wanted.includes('scene')) {
      keep('bell house.glb', await bellHouse())
      const sky = skyPanorama(512)
      keep('blue hour.hdr', writeHdr(sky))
    }
    if (all || wanted.includes('plate')) makePlate(engine, quayPlate())
    if (all || wanted.includes('night')) makePlate(engine, nightPlate())
    if (all || wanted.includes('figures')) makeFigures(engine)
    const [bellHouseShot, surveyBalloon, nightHaar] = shotsOfDemo()
    if (all || wanted.includes('passes'))
      await makePasses(engine, bellHouseShot, 'bell house', () => 'bell house passes.exr')
    if (all || wanted.includes('survey-passes')) await makePasses(engine, surveyBalloon, 'survey', surveyPasses)
    if (all || wanted.includes('night-passes')) {
      keep('harbour light.glb', await lightTower())
      keep('night.hdr', writeHdr(nightPanorama(256)))
      keep('oswald.woff2', readFileSync(join(projectRoot(), OSWALD)))
      await makePasses(engine, nightHaar, 'harbour light', () => 'harbour light passes.exr')
    }
    if (all || wanted.includes('pictures')) await makePictures(engine)
    if (all || wanted.includes('survey')) await makeSurvey(engine)
    if (all || wanted.includes('shots')) await makeShots(engine)
  } finally {
    engine.stop()
  }
}
await main()
