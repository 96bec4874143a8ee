// Treatments laid on any picture, by the very nodes that the application uses.
import { basename, dirname, extname, join } from 'node:path'
import { encodingOf } from '../core/colour/encoding'
import { treated, type TreatedBy } from '../core/compose/treatments'
import { beyondOf, distancesOf, PassNodes } from '../core/render/passnodes'
import type { Size } from '../core/plan/size'
import { boxOf, heightOf, moved, widthOf, type Box } from '../core/engine/box'
import { readSmall, type SmallPicture } from '../core/formats/picture/small'
import type { Lut } from '../core/colour/lut'
import { withNames } from '../core/formats/cryptomatte/named'
import { readCube } from '../core/formats/cube/cube'
import { BadInput } from '../core/formats/errors'
import { boxHeight, boxWidth, isExr, writeExr, type ExrChannel } from '../core/formats/exr/exr'
import { floatsToHalves } from '../core/formats/exr/half'
import { guessAlpha, guessEncoding } from '../core/formats/picture/describe'
import {
  readPicture,
  toWorking,
  writePicture,
  type PictureFile,
  type PictureFormat,
} from '../core/formats/picture/picture'
import { letterboxed } from '../core/plan/fitted'
import { kernelNode, scriptNode, type Node } from '../core/plan/node'
import { atDistance, coveredBy, type Picture, type Standing } from '../core/plan/picture'
import { ANY_CAMERA } from '../core/scene/scene'
import { calledSo } from '../core/matte/called'
import { Runner } from '../core/plan/runner'
import { namesOf, openPassFile, StillPacked, unpacking, type PassFile } from '../core/render/openpasses'
import { NO_DEPTH } from '../core/render/passes'
import { theirsOf } from '../core/render/theirs'
import type { Slip, TreatmentSettings } from '../core/shot/document'
import { addRow } from '../core/shot/rows'
import { addTerm, slipOf } from '../core/shot/slip'
import { startEngine } from '../host/engine'
import type { Raster } from '../kernels/record'
import { Wash } from '../kernels/records'
import { PICTURE_ENDINGS, readInput, requireOption, whole, writeOutput } from './arguments'
import type { Command } from './command'
import { matteLine, refineLine, treatmentLine } from './lines'
import { namesBeside } from './neighbours'

export const BUDGET = 1100 * 1048576

interface Asked {
  file: string
  out: string
  lines: TreatmentSettings[]
  passes?: string
  frame: number
}
/** Mattes belong to the line before them, so the order of the words counts. */
function asked(args: string[]): Asked {
  const files: string[] = []
  const lines: TreatmentSettings[] = []
  const options: Record<string, string> = {}
  const known = ['out', 'line', 'matte', 'refine', 'passes', 'frame']
  for (let i = 0; i < args.length; i++) {
    const word = args[i]!
    if (!word.startsWith('--')) {
      files.push(word)
      continue
    }
    const [name, ...rest] = word.slice(2).split('=')
    if (!known.includes(name!)) throw new BadInput(`there is no option --${name}; there are --${known.join(', --')}`)
    const value = rest.length ? rest.join('=') : args[++i]
    if (value === undefined) throw new BadInput(`--${name} takes a value`)
    if (name === 'line') lines.push(treatmentLine(value, lines.length + 1))
    else if (name === 'matte') {
      const line = lines.at(-1)
      if (!line) throw new BadInput('--matte belongs to the --line before it; there is none')
      const term = matteLine(value)
      if (line.matte) addTerm(line.matte, term)
      else line.matte = slipOf(term)
    } else if (name === 'refine') {
      const slip = lines.at(-1)?.matte
      if (!slip) throw new BadInput('--refine belongs to the --matte before it; there is none')
      addRow(slip.refine, refineLine(value))
    } else options[name!] = value
  }
  if (files.length !== 1) throw new BadInput(`expected IN, got ${files.length ? files.join(' ') : 'nothing'}`)
  if (!lines.length) throw new BadInput('--line is missing')
  return {
    file: files[0]!,
    out: requireOption('out', options.out),
    lines,
    passes: options.passes,
    frame: options.frame === undefined ? 1 : whole('frame', options.frame, -1e6, 1e6),
  }
}

/** The file of a frame, where # in a name stands for its number. */
export const fileAt = (pattern: string, frame: number): string =>
  join(
    dirname(pattern),
    basename(pattern).replace(/#+/, hashes => String(frame).padStart(hashes.length, '0')),
  )

interface Read {
  picture: PictureFile
  pixels: Float32Array
  /** Where its pixels lie in its frame. */
  window: Box
  width: number
  height: number
}
async function read(file: string): Promise<Read> {
  const picture = await readPicture(await readInput(file), { whole: true })
  const pixels = toWorking(picture, encodingOf(guessEncoding(picture).encoding), guessAlpha(picture, 'unclear'))
  const { dataWindow: data, displayWindow: display } = picture
  return {
    picture,
    pixels,
    window: moved(
      boxOf(picture.width, picture.height),
      data && display ? data.xMin - display.xMin : 0,
      data && display ? data.yMin - display.yMin : 0,
    ),
    width: display ? boxWidth(display) : picture.width,
    height: display ? boxHeight(display) : picture.height,
  }
}

/** Files read once, asked for while the picture is planned. */
export class Frames {
  private pictures = new Map<string, Read>()
  private opened = new Map<string, PassFile>()
  private tables = new Map<string, Lut>()
  private smalls = new Map<string, SmallPicture>()
  constructor(
    private pattern: string,
    private passesPattern: string | undefined,
  ) {}

  at(frame: number): Read {
    return this.other(this.pattern, frame)
  }
  /** A file that a line names; # in it stands for the frame. */
  other(pattern: string, frame: number): Read {
    const file = fileAt(pattern, frame)
    const known = this.pictures.get(file)
    if (known) return known
    throw new StillPacked(async () => {
      this.pictures.set(file, await read(file))
    })
  }
  table(file: string): Lut {
    const known = this.tables.get(file)
    if (known) return known
    throw new StillPacked(async () => {
      this.tables.set(file, readCube(await readInput(file)))
    })
  }
  small(file: string): SmallPicture {
    const known = this.smalls.get(file)
    if (known) return known
    throw new StillPacked(async () => {
      const bytes = await readInput(file)
      try {
        this.smalls.set(file, await readSmall(bytes))
      } catch (error) {
        throw error instanceof BadInput ? new BadInput(`${file}: ${error.message}`) : error
      }
    })
  }
  passes(frame: number): PassFile | undefined {
    if (!this.passesPattern) return undefined
    const file = fileAt(this.passesPattern, frame)
    const known = this.opened.get(file)
    if (known) return known
    throw new StillPacked(async () => {
      const found = await readInput(file)
      if (!isExr(found)) throw new BadInput(`${file} is not an OpenEXR file, and gives no passes`)
      const bytes = withNames(found, namesBeside(file, found))
      // Passes from elsewhere are what their names most likely mean
      this.opened.set(file, await openPassFile(bytes, (await theirsOf(bytes))?.likely))
    })
  }
}

/** Says of names what is missing: they would hold nothing, without a word. */
export function checkNames(matte: Slip | null, file: PassFile | undefined): void {
  for (const term of Object.values(matte?.terms ?? {})) {
    if (term.kind !== 'names') continue
    if (!file) throw new BadInput('a matte of names takes them from passes: give --passes FILE')
    const known = namesOf(file, term.of)
    const unknown = term.names.filter(name => !calledSo([name], known).some(Boolean))
    if (unknown.length)
      throw new BadInput(
        `the passes have no ${term.of} “${unknown.join('”, “')}”; they have ${known.join(', ') || 'none'}`,
      )
  }
}

const sizeOf = ({ width, height }: Read): Size => ({
  width,
  height,
  shrink: 1,
  left: 0,
  top: 0,
  frameWidth: width,
  frameHeight: height,
})

/** How far away things are and where they go: as the passes say, over what is farthest where they leave it open. */
function distances(passes: PassNodes | undefined, { width, height }: Size): Standing {
  const farthest = atDistance(NO_DEPTH, boxOf(width, height))
  if (!passes?.file.planes.has('depth.Z')) return farthest
  const colour = passes.colour(['A'], 0)
  // Whatever the passes do not cover is there too, and far
  const whole = kernelNode(Wash, { colour: [0, 0, 0, 1] }, { window: colour.window })
  return {
    ...coveredBy({ colour: whole, ...farthest }, { colour, ...distancesOf(passes) }, 1),
    beyond: beyondOf(passes, part => passes.part(part), passes.colour(['R', 'G', 'B'], 0)),
  }
}

export function pictureAt(frames: Frames, frame: number): { picture: Picture; by: TreatedBy } {
  const own = frames.at(frame)
  const size = sizeOf(own)
  const file = frames.passes(frame)
  const passes =
    file &&
    new PassNodes(
      {
        file,
        key: `passes of ${frame}`,
        map: () => ({ scaleX: file.width / size.width, offsetX: 0, scaleY: file.height / size.height, offsetY: 0 }),
      },
      size,
    )
  return {
    picture: { colour: nodeOf(own, 'treated', frame), ...distances(passes, size) },
    by: {
      frame,
      size,
      frames: { first: -1e6, last: 1e6 },
      passes,
      relative: false,
      camera: () => ANY_CAMERA,
      mattes: {},
      taken: ({ name }) => letterboxed(nodeOf(frames.other(name, frame), name, frame), size, 1),
      table: ({ name }) => ({ lut: frames.table(name), key: name }),
      small: ({ name }) => ({ ...frames.small(name), key: name }),
      at: other => pictureAt(frames, other),
    },
  }
}

function nodeOf({ window, pixels }: Read, name: string, frame: number): Node {
  const row = widthOf(window) * 4
  return scriptNode([name, frame], 'colour', window, (out, _, kernels) => {
    const to = kernels.floats(out.pointer, widthOf(out) * heightOf(out) * 4)
    for (let y = out.top; y < out.bottom; y++) {
      const from = (y - window.top) * row + (out.left - window.left) * 4
      to.set(pixels.subarray(from, from + widthOf(out) * 4), (y - out.top) * widthOf(out) * 4)
    }
  })
}

export const treat: Command = {
  usage:
    "treat IN --out OUT --line 'ID name=value …' [--matte 'KIND name=value …'] [--refine 'KIND name=value …'] [--line …] [--passes FILE] [--frame N]",
  help: 'Treatments laid on a picture in that order; a value goes on to the next name=, so that names and files may have spaces; a matte belongs to the line before it, several of them go on from each other (join=also, not, only, apart), and --refine refines the whole of them. # in IN and FILE stands for the number of the frame, which treatments over several frames need. --passes: an OpenEXR file that gives distances and names. What lines and mattes there are: northmist list. OpenEXR to OpenEXR keeps windows and float values.',
  async run(args) {
    const { file, out, lines, passes, frame } = asked(args)
    const format = PICTURE_ENDINGS[extname(out).toLowerCase()]
    if (!format)
      throw new BadInput(
        `the ending of ${out} names no format that is written; ${Object.keys(PICTURE_ENDINGS).join(', ')} do`,
      )
    const engine = await startEngine()
    try {
      const frames = new Frames(file, passes)
      const { node, own } = await unpacking(() => {
        const { picture, by } = pictureAt(frames, frame)
        for (const { matte } of lines) checkNames(matte, by.passes?.file)
        const rows = Object.fromEntries(lines.map(line => [line.id, line]))
        return { node: treated(picture, rows, by).colour, own: frames.at(frame) }
      })
      const raster = await new Runner(engine.pool, BUDGET).run(node, node.window)
      const pixels = engine.kernels.floats(raster.pointer, widthOf(raster) * heightOf(raster) * 4).slice()
      await writeOutput(out, written(own, raster, pixels, format))
    } finally {
      engine.stop()
    }
  },
}

function written(
  { picture, width, height }: Read,
  raster: Raster,
  pixels: Float32Array,
  format: PictureFormat,
): Uint8Array {
  const { displayWindow } = picture
  if (format === 'exr') {
    const origin = displayWindow ?? { xMin: 0, yMin: 0 }
    const across = widthOf(raster)
    const count = across * heightOf(raster)
    const half = picture.float && picture.bits === 16
    const channels = ['R', 'G', 'B', ...(picture.hasAlpha ? ['A'] : [])].map((name, c): ExrChannel => {
      const plane = Float32Array.from({ length: count }, (_, i) => pixels[i * 4 + c]!)
      return half
        ? { name, type: 'half', linear: false, data: floatsToHalves(plane) }
        : { name, type: 'float', linear: false, data: plane }
    })
    return writeExr({
      dataWindow: {
        xMin: raster.left + origin.xMin,
        yMin: raster.top + origin.yMin,
        xMax: raster.right + origin.xMin - 1,
        yMax: raster.bottom + origin.yMin - 1,
      },
      displayWindow: displayWindow ?? { xMin: 0, yMin: 0, xMax: width - 1, yMax: height - 1 },
      compression: 'zip',
      attributes: [],
      channels,
    })
  }
  // Other formats hold the frame alone
  const frame = new Float32Array(width * height * 4)
  for (let y = Math.max(0, raster.top); y < Math.min(height, raster.bottom); y++)
    for (let x = Math.max(0, raster.left); x < Math.min(width, raster.right); x++) {
      const from = ((y - raster.top) * widthOf(raster) + x - raster.left) * 4
      frame.set(pixels.subarray(from, from + 4), (y * width + x) * 4)
    }
  const float = format === 'hdr' || (format === 'tiff' && picture.bits === 32)
  return writePicture(width, height, frame, {
    format,
    bits: picture.bits,
    encoding: float ? 'linear' : 'srgb',
    alpha: picture.hasAlpha,
  })
}
