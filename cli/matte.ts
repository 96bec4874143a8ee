import { boxHeight, boxWidth, isExr, readExr, writeExr } from '../core/formats/exr/exr'
import { matteOf } from '../core/formats/cryptomatte/cryptomatte'
import { BadInput } from '../core/formats/errors'
import { useNodeZlib } from '../host/engine'
import { list, parse, readInput, requireOption, writeOutput } from './arguments'
import type { Command } from './command'

export const matte: Command = {
  usage: 'matte PASSES.exr --object NAME[,NAME] --out F.exr',
  help: 'The coverage of named objects (or materials) together, as one channel Y, from the Cryptomatte in a pass file.',
  async run(args) {
    const options = parse(args, ['PASSES.exr'], ['object', 'out'])
    const names = list(requireOption('object', options.object)), out = requireOption('out', options.out)
    useNodeZlib()
    const bytes = await readInput(options.files[0]!)
    if (!isExr(bytes)) throw new BadInput(`${options.files[0]} is not an OpenEXR file`)
    const image = readExr(bytes, name => /\d\d\.\w+$/.test(name))
    const { matte: data } = matteOf(image, names)
    if (data.length !== boxWidth(image.dataWindow) * boxHeight(image.dataWindow)) throw new BadInput('the Cryptomatte layers are of another size than the file')
    await writeOutput(out, writeExr({ dataWindow: image.dataWindow, displayWindow: image.displayWindow, compression: 'zip', attributes: [], channels: [{ name: 'Y', type: 'float', linear: true, data }] }))
  },
}
