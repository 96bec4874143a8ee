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
import { firstValues } from '../core/declare/values'
import { LENS_VALUES } from '../core/lens/values'
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

export const render: Command = {
  usage:
    "render SCENE.glb --out F.exr [--size WxH] [--samples N] [--passes a,b,…] [--camera NAME] [--environment F] [--catcher NAME,…] [--seed N] [--workers N] [--lens 'name=value …'] [--reach METRES] [--clamp N] [--compression C] [--ranks N] [--parts] [--denoise] [--sidecar]",
  help: `All passes of a glTF scene in one OpenEXR file (--parts: each layer a part of its own; --denoise: the light with its noise taken out too, in layers clean.…; --lens: through a true lens, ${Object.keys(LENS_VALUES).join(', ')}, sharpData=0 for data as soft as the light; --sidecar: the manifests of Cryptomatte in files beside). Passes: ${PASS_IDS.join(', ')}.`,
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
    const scene = await readGltf(bytes, await neighbourFiles(bytes, dirname(file)))
    const camera = options.camera ? scene.cameras.find(camera => camera.name === options.camera) : scene.camera
    if (!camera)
      throw new BadInput(
        options.camera
          ? `there is no camera “${options.camera}”; there are ${scene.cameras.map(camera => camera.name).join(', ') || 'none'}`
          : 'the scene has no camera',
      )
    for (const [option, role] of [
      ['catcher', 'catcher'],
      ['holdout', 'holdout'],
    ] as const) {
      for (const name of list(options[option] ?? '')) {
        const object = scene.objects.find(object => object.name === name)
        if (!object)
          throw new BadInput(
            `there is no object “${name}”; there are ${scene.objects.map(object => object.name).join(', ')}`,
          )
        object.role = role
      }
    }
    if (options.environment) {
      const picture = await readPicture(await readInput(options.environment))
      scene.environment = {
        width: picture.width,
        height: picture.height,
        pixels: toWorking(picture, encodingOf(guessEncoding(picture).encoding), 'none'),
        turn: 0,
        gain: [1, 1, 1],
        seenByCamera: true,
      }
    }
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
      const compiled = compileScene(engine.kernels, scene)
      const denoises = options.denoise && hasNoise(passes)
      const guides = denoises ? guidePasses(passes, scene.materials) : []
      const job = new Render(engine.pool, compiled, {
        width,
        height,
        samples,
        passes: [...passes, ...guides],
        keepNoise: hasNoise(passes),
        settle: true,
        camera,
        seed,
        lens,
        occlusionReach: reach,
        clampIndirect: clamp,
        cryptoRanks: ranks,
        seeEnvironment: scene.environment?.seenByCamera,
      })
      while (!job.done) {
        job.step(8)
        if (process.stderr.isTTY) process.stderr.write(`\r${Math.round(job.progress * 100)} %  `)
      }
      if (process.stderr.isTTY) process.stderr.write('\r        \r')
      const result = job.snapshot()
      const clean = denoises ? denoisePasses(engine.pool, result) : undefined
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
