import { boxHeight, boxWidth, isExr, readExr, writeExr } from '../core/formats/exr/exr'
import { matteOf } from '../core/formats/cryptomatte/cryptomatte'
import { existsSync, readFileSync, statSync } from 'node:fs'
import { basename, dirname, join } from 'node:path'
import { PASSES, type Seen } from '../core/render/passes'
import { BadInput } from '../core/formats/errors'
import { useNode } from '../host/engine'
import { list, parse, readInput, requireOption, writeOutput } from './arguments'
import type { Command } from './command'

/** A manifest beside the file: in its folder only, and of bounded size. */
function besideFile(file: string, name: string): string | undefined {
  const path = join(dirname(file), basename(name))
  return existsSync(path) && statSync(path).size < 64 * 1048576 ? readFileSync(path, 'utf8') : undefined
}

export const matte: Command = {
  usage: 'matte PASSES.exr --object NAME[,NAME] --out F.exr [--seen through|mirrored]',
  help: 'The coverage of named objects (or materials) together, as one channel Y, from the Cryptomatte in a pass file; --seen: as seen through glass, or as mirrored.',
  async run(args) {
    const options = parse(args, ['PASSES.exr'], ['object', 'out', 'seen'])
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
    await writeOutput(
      out,
      writeExr({
        dataWindow: image.dataWindow,
        displayWindow: image.displayWindow,
        compression: 'zip',
        attributes: [],
        channels: [{ name: 'Y', type: 'float', linear: true, data }],
      }),
    )
  },
}
