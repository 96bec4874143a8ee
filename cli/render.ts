import { BadInput, checkSize } from '../core/formats/errors'
import { readGltf } from '../core/formats/gltf/gltf'
import { guessEncoding } from '../core/formats/picture/describe'
import { readPicture, toWorking } from '../core/formats/picture/picture'
import { encodingOf } from '../core/colour/encoding'
import { compileScene } from '../core/render/compile'
import { passesToExr, sidecarsOf } from '../core/render/passfile'
import { WRITTEN, type Compression } from '../core/formats/exr/exr'
import { CRYPTO_RANKS, MOST_CRYPTO_RANKS, PASS_IDS } from '../core/render/passes'
import { denoisePasses, guidePasses, hasNoise } from '../core/render/denoise'
import { Render, type TrueLens } from '../core/render/render'
import { firstValues, valuesAt } from '../core/declare/values'
import { LENS_VALUES, SHUTTER_OF_RENDER } from '../core/lens/values'
import { ofMoments, sharpen } from '../core/render/sharpData'
import { camerasAt, openShutter, othersAt, type ShutterSaid, type World } from '../core/render/shutter'
import type { Camera, Scene } from '../core/scene/scene'
import { valueAt } from '../core/time/curve'
import type { LensOfRender } from '../core/shot/schema/passes'
import { trueLensAt } from '../core/shot/trueLens'
import { startEngine } from '../host/engine'
import { list, parse, readInput, requireOption, whole, writeOutput } from './arguments'
import type { Command } from './command'
import { lineOf, switchOf, valuesOf } from './said'
import { basename, dirname, join } from 'node:path'
import { neighbourFiles } from './neighbours'

/** 'distance=8 fNumber=2': what is not said is as in a new one. */
function lensOf(text: string): TrueLens {
  const line = lineOf(`lens ${text}`, 'lens', ['lens'])
  const values = { ...firstValues(LENS_VALUES), ...valuesOf(LENS_VALUES, line, ['sharpData']) }
  return trueLensAt(
    { ...values, sharpData: switchOf(line.given.get('sharpData') ?? '1', 'sharpData') } as LensOfRender,
    0,
  )
}

/** 'shutter=180 from=-90 moments=16': what is not said is as in a new one. */
function shutterOf(text: string): ShutterSaid {
  const line = lineOf(`shutter ${text}`, 'shutter', ['shutter'])
  const values = { ...firstValues(SHUTTER_OF_RENDER), ...valuesOf(SHUTTER_OF_RENDER, line, []) }
  return valuesAt(SHUTTER_OF_RENDER, values, 0, valueAt)
}
/** A number of seconds, or of frames in one. */
function number(option: string, text: string, least: number): number {
  const value = Number(text)
  if (!(value >= least && value < 1e6)) throw new BadInput(`--${option} takes a number from ${least} on, not “${text}”`)
  return value
}

async function environmentOf(file: string): Promise<Scene['environment']> {
  const picture = await readPicture(await readInput(file))
  return {
    width: picture.width,
    height: picture.height,
    pixels: toWorking(picture, encodingOf(guessEncoding(picture).encoding), 'none'),
    turn: 0,
    gain: [1, 1, 1],
    seenByCamera: true,
  }
}

interface Asked {
  camera: string | undefined
  roles: Record<'catcher' | 'holdout', readonly string[]>
  environment: Scene['environment']
}
/** A file's scene at its frames, as it is asked for. Throws BadInput where it has not what is named. */
function worldOf(file: Scene, rate: number, { camera: name, roles, environment }: Asked): World {
  const cameraOf = ({ camera, cameras }: Scene): Camera => {
    const found = name === undefined ? camera : cameras.find(camera => camera.name === name)
    if (found) return found
    throw new BadInput(
      name === undefined
        ? 'the scene has no camera'
        : `there is no camera “${name}”; there are ${cameras.map(camera => camera.name).join(', ') || 'none'}`,
    )
  }
  const at = (frame: number): Scene => file.at?.(Math.max(0, frame / rate)) ?? file
  return {
    scene: frame => {
      const scene = at(frame)
      for (const role of ['catcher', 'holdout'] as const)
        for (const name of roles[role]) {
          const object = scene.objects.find(object => object.name === name)
          if (!object)
            throw new BadInput(
              `there is no object “${name}”; there are ${scene.objects.map(object => object.name).join(', ')}`,
            )
          object.role = role
        }
      return environment ? { ...scene, environment } : scene
    },
    camera: frame => cameraOf(at(frame)),
    moves: !!file.at,
    first: 0,
  }
}

export const render: Command = {
  usage:
    "render SCENE.glb --out F.exr [--size WxH] [--samples N] [--passes a,b,…] [--camera NAME] [--environment F] [--catcher NAME,…] [--seed N] [--workers N] [--lens 'name=value …'] [--time SECONDS] [--rate FRAMES] [--shutter 'name=value …'] [--reach METRES] [--clamp N] [--compression C] [--ranks N] [--parts] [--denoise] [--sidecar]",
  help: `All passes of a glTF scene in one OpenEXR file (--parts: each layer a part of its own; --denoise: the light with its noise taken out too, in layers clean.…; --lens: through a true lens, ${Object.keys(LENS_VALUES).join(', ')}, sharpData=0 for data as soft as the light; --time: of its animation, --rate: frames a second by which motion is told; --shutter: what is seen while one is open, ${Object.keys(SHUTTER_OF_RENDER).join(', ')}, data of the moment itself; --sidecar: the manifests of Cryptomatte in files beside). Passes: ${PASS_IDS.join(', ')}.`,
  async run(args) {
    const options = parse(
      args,
      ['SCENE.glb'],
      [
        'out',
        'size',
        'samples',
        'passes',
        'camera',
        'environment',
        'catcher',
        'holdout',
        'seed',
        'workers',
        'lens',
        'time',
        'rate',
        'shutter',
        'reach',
        'clamp',
        'compression',
        'ranks',
      ],
      ['parts', 'denoise', 'sidecar'],
    )
    const out = requireOption('out', options.out)
    const size = /^(\d+)x(\d+)$/.exec(options.size ?? '1280x720')
    if (!size) throw new BadInput(`--size is said as 1280x720, not “${options.size}”`)
    const width = Number(size[1])
    const height = Number(size[2])
    checkSize('--size', width, height)
    const samples = whole('samples', options.samples ?? '64', 1, 1 << 20)
    const seed = whole('seed', options.seed ?? '0', 0, 2 ** 31 - 1)
    const workers = options.workers === undefined ? undefined : whole('workers', options.workers, 1, 256)
    const lens = options.lens === undefined ? undefined : lensOf(options.lens)
    const passes = options.passes ? list(options.passes) : [...PASS_IDS]
    for (const pass of passes)
      if (!PASS_IDS.includes(pass)) throw new BadInput(`there is no pass “${pass}”; there are ${PASS_IDS.join(', ')}`)
    const file = options.files[0]!
    const bytes = await readInput(file)
    const rate = options.rate === undefined ? 24 : number('rate', options.rate, 0.01)
    const world = worldOf(await readGltf(bytes, await neighbourFiles(bytes, dirname(file))), rate, {
      camera: options.camera,
      roles: { catcher: list(options.catcher ?? ''), holdout: list(options.holdout ?? '') },
      environment: options.environment === undefined ? undefined : await environmentOf(options.environment),
    })
    const frame = (options.time === undefined ? 0 : number('time', options.time, 0)) * rate
    const shutter = options.shutter === undefined ? undefined : shutterOf(options.shutter)
    const scene = world.scene(frame)
    const reach = options.reach === undefined ? undefined : Number(options.reach)
    if (reach !== undefined && !(reach > 0)) throw new BadInput(`--reach takes metres, not “${options.reach}”`)
    const clamp = options.clamp === undefined ? 0 : Number(options.clamp)
    if (!(clamp >= 0)) throw new BadInput(`--clamp takes a bound of 0 (none) or more, not “${options.clamp}”`)
    const compression = (options.compression ?? 'zip') as Compression
    if (!(WRITTEN as readonly string[]).includes(compression))
      throw new BadInput(`--compression is one of ${WRITTEN.join(', ')}, not “${options.compression}”`)
    const ranks = whole('ranks', options.ranks ?? String(CRYPTO_RANKS), 1, MOST_CRYPTO_RANKS)
    const engine = await startEngine(workers)
    try {
      // What has no animation goes nowhere
      const followed = world.moves ? passes : []
      const gathered = ofMoments(passes, !!shutter)
      const compiled = compileScene(engine.kernels, scene, othersAt(world, followed, frame))
      const denoises = options.denoise && hasNoise(passes)
      const guides = denoises ? guidePasses(passes, scene.materials) : []
      const common = {
        width,
        height,
        samples,
        camera: world.camera(frame),
        seed,
        lens,
        occlusionReach: reach,
        clampIndirect: clamp,
        cryptoRanks: ranks,
        seeEnvironment: scene.environment?.seenByCamera,
        moving: camerasAt(world, followed, frame),
      }
      const job = new Render(engine.pool, compiled, {
        ...common,
        passes: [...gathered, ...guides],
        keepNoise: hasNoise(passes),
        settle: true,
        moments:
          shutter && openShutter(engine.kernels, world, { shutter, frame, still: compiled, passes: gathered }).moments,
      })
      while (!job.done) {
        job.step(8)
        if (process.stderr.isTTY) process.stderr.write(`\r${Math.round(job.progress * 100)} %  `)
      }
      if (process.stderr.isTTY) process.stderr.write('\r        \r')
      const result = job.snapshot()
      const clean = denoises ? denoisePasses(engine.pool, result) : undefined
      if (shutter) sharpen(result, engine.pool, compiled, { ...common, passes })
      const told = {
        passes,
        objectNames: compiled.objects.map(object => object.name),
        materialNames: compiled.materials.map(material => material.name),
        assetNames: compiled.assets,
        lightGroups: compiled.lightGroups,
        clean,
        compression,
        parts: options.parts,
        sidecar: options.sidecar ? basename(out).replace(/\.exr$/i, '') : undefined,
      }
      await writeOutput(out, passesToExr(result, told))
      for (const { name, text } of sidecarsOf(told))
        await writeOutput(join(dirname(out), name), new TextEncoder().encode(text))
    } finally {
      engine.stop()
    }
  },
}
