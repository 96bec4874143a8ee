import { matteNode } from '../core/compose/mattes'
import { heightOf, widthOf } from '../core/engine/box'
import { boxHeight, boxWidth, emptyWindow, isExr, readExr, writeExr, type ExrImage } from '../core/formats/exr/exr'
import { Runner } from '../core/plan/runner'
import { unpacking } from '../core/render/openpasses'
import type { Slip } from '../core/shot/document'
import { addRow } from '../core/shot/rows'
import { slipOf } from '../core/shot/slip'
import { matteOf } from '../core/formats/cryptomatte/cryptomatte'
import { PASSES, type Seen } from '../core/render/passes'
import { BadInput } from '../core/formats/errors'
import { startEngine, useNode } from '../host/engine'
import { list, parse, readInput, requireOption, writeOutput } from './arguments'
import type { Command } from './command'
import { matteLine, refineLine } from './lines'
import { besideFile } from './neighbours'
import { BUDGET, checkNames, Frames, pictureAt } from './treat'

export const matte: Command = {
  usage:
    "matte PASSES.exr (--object NAME[,NAME] [--seen through|mirrored] | --line 'KIND name=value …' [--line …] [--refine 'KIND name=value …']) --out F.exr",
  help: 'A matte as one channel Y. --object: the coverage of named objects (or materials) together, from the Cryptomatte in a pass file; --seen: as seen through glass, or as mirrored. --line: any kind of matte (northmist list mattes) of the picture in the file, by its passes; several go on from each other (join=also, not, only, apart). --refine: what refines the whole of them (northmist list refiners), in that order.',
  async run(args) {
    // Lines go on from each other
    const said: Record<'line' | 'refine', string[]> = { line: [], refine: [] }
    const rest = args.filter((word, i) => {
      for (const option of ['line', 'refine'] as const) {
        if (args[i - 1] === `--${option}`) said[option].push(word)
        else if (word.startsWith(`--${option}=`)) said[option].push(word.slice(option.length + 3))
        else if (word !== `--${option}`) continue
        return false
      }
      return true
    })
    const { line: lines, refine } = said
    if (refine.length && !lines.length) throw new BadInput('--refine belongs to --line; there is none')
    const options = parse(rest, ['PASSES.exr'], ['object', 'out', 'seen'])
    if (lines.length) {
      if (options.object ?? options.seen)
        throw new BadInput('--line says the whole matte; --object and --seen are of it')
      const slip = slipOf(...lines.map(matteLine))
      for (const line of refine) addRow(slip.refine, refineLine(line))
      return ofLine(options.files[0]!, requireOption('out', options.out), slip)
    }
    const names = list(requireOption('object', options.object))
    const out = requireOption('out', options.out)
    const seen = (options.seen ?? 'straight') as Seen
    const others = PASSES.filter(pass => pass.coverage && pass.coverage.seen !== seen).map(pass => pass.coverage!.layer)
    if (!['straight', 'through', 'mirrored'].includes(seen))
      throw new BadInput(`--seen is through or mirrored, not “${options.seen}”`)
    useNode()
    const bytes = await readInput(options.files[0]!)
    if (!isExr(bytes)) throw new BadInput(`${options.files[0]} is not an OpenEXR file`)
    const image = readExr(bytes, name => /\d\d\.\w+$/.test(name))
    const { matte: data } = matteOf(
      image,
      names,
      set => !others.includes(set),
      name => besideFile(options.files[0]!, name),
    )
    if (data.length !== boxWidth(image.dataWindow) * boxHeight(image.dataWindow))
      throw new BadInput('the Cryptomatte layers are of another size than the file')
    await writeOutput(out, greyExr(image, data))
  },
}

const greyExr = (
  { dataWindow, displayWindow }: Pick<ExrImage, 'dataWindow' | 'displayWindow'>,
  data: Float32Array,
): Uint8Array =>
  writeExr({
    dataWindow,
    displayWindow,
    compression: 'zip',
    attributes: [],
    channels: [{ name: 'Y', type: 'float', linear: true, data }],
  })

/** As the application makes it of the file's own picture, distances and names. */
async function ofLine(file: string, out: string, settings: Slip): Promise<void> {
  const engine = await startEngine()
  try {
    const frames = new Frames(file, isExr(await readInput(file)) ? file : undefined)
    const node = await unpacking(() => {
      const { picture, by } = pictureAt(frames, 1)
      checkNames(settings, by.passes?.file)
      return matteNode(settings, picture, by)
    })
    if (!node || node === 'everywhere') throw new BadInput(`${file} has nothing that this matte is made of`)
    const raster = await new Runner(engine.pool, BUDGET).run(node, node.window)
    const width = widthOf(raster)
    const height = heightOf(raster)
    const window = emptyWindow(width, height)
    const data = engine.kernels.floats(raster.pointer, width * height).slice()
    await writeOutput(out, greyExr({ dataWindow: window, displayWindow: window }, data))
  } finally {
    engine.stop()
  }
}
