import { existsSync } from 'node:fs'
import { dirname, extname, join, resolve, sep } from 'node:path'
import { deliver, type DeliveryFormat } from '../core/build/deliver'
import { Evaluator } from '../core/build/evaluate'
import { BadInput } from '../core/formats/errors'
import type { ShotDocument } from '../core/shot/document'
import { documentFaults } from '../shared/documentClasses'
import { startEngine } from '../host/engine'
import { parse, readInput, requireOption, whole, writeOutput } from './arguments'
import type { Command } from './command'

const FORMATS: Record<string, DeliveryFormat> = {
  '.png': 'png16',
  '.tif': 'tiff16',
  '.tiff': 'tiff16',
  '.jpg': 'jpeg',
  '.jpeg': 'jpeg',
  '.exr': 'exr16',
}

export const build: Command = {
  usage: 'build SHOT.json --out F [--frame N] [--bits 8|16|32]',
  help: 'The finished picture of a shot saved from the application, with its files beside it: in the folder SHOT.files by the names that the shot says, or by their SHA-256.',
  async run(args) {
    const options = parse(args, ['SHOT.json'], ['out', 'frame', 'bits', 'workers'])
    const out = requireOption('out', options.out)
    const file = options.files[0]!
    let format = FORMATS[extname(out).toLowerCase()]
    if (!format)
      throw new BadInput(`the ending of ${out} names no format that is written; ${Object.keys(FORMATS).join(', ')} do`)
    if (options.bits) {
      const bits = whole('bits', options.bits, 8, 32)
      const wanted = `${format.replace(/\d+$/, '')}${bits}`
      if (!['png8', 'png16', 'tiff8', 'tiff16', 'tiff32', 'exr16', 'exr32'].includes(wanted))
        throw new BadInput(`${extname(out)} is not written with ${bits} bits`)
      format = wanted as DeliveryFormat
    }
    let value: unknown
    try {
      value = JSON.parse(new TextDecoder().decode(await readInput(file)))
    } catch (error) {
      throw error instanceof BadInput ? error : new BadInput(`${file} is not JSON`)
    }
    const document = ((value as { document?: unknown } | null)?.document ?? value) as ShotDocument
    const faults = documentFaults(document)
    if (faults.length) throw new BadInput(`${file} is no valid shot: ${faults.slice(0, 3).join('; ')}`)
    const frame = options.frame === undefined ? document.frames.first : whole('frame', options.frame, -1e6, 1e6)
    const places = [
      join(dirname(file), `${file.replace(/^.*[\\/]/, '').replace(/\.json$/i, '')}.files`),
      dirname(file),
    ].map(place => resolve(place))
    const engine = await startEngine(
      options.workers === undefined ? undefined : whole('workers', options.workers, 1, 256),
    )
    try {
      const evaluator = new Evaluator(engine.pool, blob => readInput(findFile(places, blob, namesOf(document, blob))))
      const picture = await evaluator.evaluate({ document, frame, shrink: 1, show: { kind: 'finish' } })
      await writeOutput(out, deliver(engine.pool, picture, document.view, format))
    } finally {
      engine.stop()
    }
  },
}

/** Names that the document gives a blob. */
function namesOf(document: ShotDocument, blob: string): string[] {
  const names: string[] = []
  JSON.stringify(document, (_key, value) => {
    if (value && typeof value === 'object' && value.blob === blob && typeof value.name === 'string')
      names.push(value.name)
    return value
  })
  return names
}

function findFile(places: string[], blob: string, names: string[]): string {
  for (const place of places) {
    for (const name of [blob, ...names]) {
      const path = resolve(place, name)
      // A name from the document must not lead out of the folder
      if (path.startsWith(place + sep) && existsSync(path)) return path
    }
  }
  throw new BadInput(
    `the file ${names[0] ? `“${names[0]}”` : blob} is not beside the shot (looked in ${places.join(' and ')})`,
  )
}
