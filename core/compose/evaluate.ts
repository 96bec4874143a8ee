// From a shot document to pixels: its files prepared, its picture planned, what is not there yet computed.
import type { Lut } from '../colour/lut'
import { heightOf, widthOf, type Box } from '../engine/box'
import type { Pool } from '../engine/pool'
import { BadInput } from '../formats/errors'
import type { Node } from '../plan/node'
import { Runner, TooLarge, type RunOptions } from '../plan/runner'
import { unpacking } from '../render/openpasses'
import { kernelNode } from '../plan/node'
import { reduced } from '../plan/reduced'
import { touching, type Touching } from '../measure/contact'
import { ShareOf } from '../../kernels/records'
import { cardPicture } from './cards'
import { cutPicture } from './layers'
import type { Raster } from '../../kernels/record'
import { latticeNode, latticeTable } from './bake'
import { Files, type LoadBlob } from './files'
import { shownNode } from './plan'
import { workSize, type Request } from './request'
import { boxOfSize } from '../plan/size'
import { cardsOf, type CardLook } from '../shot/cards'
import { PassNodes } from '../render/passnodes'
import { namedNode } from './mattes'

/** A picture in the kernels' memory, or the part of it that was asked for. */
export interface Evaluated extends Raster {
  key: string
  width: number
  height: number
}

/** Pixels across or down of a picture whose feet are looked for. */
const MOST_LOOKED_AT = 1500
const DEFAULT_BUDGET = 1100 * 1048576

export class Evaluator {
  readonly files: Files
  readonly runner: Runner

  constructor(
    readonly pool: Pool,
    load: LoadBlob,
    budget = DEFAULT_BUDGET,
  ) {
    this.files = new Files(load)
    this.runner = new Runner(pool, budget)
  }

  /**
   * Computes what is asked for, or a part of it (pixels of the frame at the size that is asked for). It stays valid
   * until the next call. Throws BadInput where it is too large, Stopped.
   */
  async evaluate(request: Request, { area, ...options }: RunOptions & { area?: Box } = {}): Promise<Evaluated> {
    const node = await this.planned(request)
    return fitting(request, async () => evaluated(node, await this.runner.run(node, area ?? node.window, options)))
  }

  /** The same from the top down in strips as high as the memory allows, for what is only written once. */
  async eachStrip(
    request: Request,
    use: (strip: Evaluated) => void | Promise<void>,
    options: RunOptions = {},
  ): Promise<void> {
    const node = await this.planned(request)
    await fitting(request, () =>
      this.runner.eachStrip(node, node.window, strip => use(evaluated(node, strip)), options),
    )
  }

  /**
   * What named things cover of the working frame at full size, one float a pixel; undefined without passes. layer: whose
   * render knows them.
   */
  async matte(
    document: Request['document'],
    frame: number,
    matte: Parameters<typeof namedNode>[0],
    layer?: string,
  ): Promise<Evaluated | undefined> {
    const size = workSize({ document, shrink: 1 })
    const node = await unpacking(() => {
      const passes = this.files.passes(document, frame, layer)
      return passes && namedNode(matte, new PassNodes(passes, size), false)
    })
    return node && evaluated(node, await this.runner.run(node, boxOfSize(size)))
  }

  /** A shot's finish as a table of colours: of a cube of so many to a side, in codes of an encoding. */
  async table(document: Request['document'], frame: number, side: number, encoding: string): Promise<Lut> {
    const node = await unpacking(() => latticeNode(this.files, document, frame, side, encoding))
    const { pointer } = await this.runner.run(node, node.window)
    return latticeTable(this.pool.kernels.floats(pointer, side ** 3 * 4), side, encoding)
  }

  /** Where the cut-out of a layer touches the ground in its own picture; undefined where nothing of it is seen. */
  async touching(document: Request['document'], frame: number, layer: string): Promise<Touching | undefined> {
    const node = await unpacking(() =>
      cutPicture(this.files, { document, frame, shrink: 1, show: { kind: 'build' } }, layer),
    )
    if (!node) return undefined
    // Feet are found in far fewer pixels than a photograph has
    const times = Math.max(
      0,
      Math.ceil(Math.log2(Math.max(widthOf(node.window), heightOf(node.window)) / MOST_LOOKED_AT)),
    )
    const less = reduced(node, times)
    const alpha = kernelNode(ShareOf, { source: less, which: 3 }, { window: less.window })
    const raster = await this.runner.run(alpha, alpha.window)
    const [width, height] = [widthOf(raster), heightOf(raster)]
    return touching(this.pool.kernels.floats(raster.pointer, width * height), width, height)
  }

  /** The figures that stand in the shot's scene, as cards of a render, by their layers. */
  async cards(document: Request['document'], frame: number): Promise<Map<string, CardLook>> {
    const looks = new Map<string, CardLook>()
    for (const layer of cardsOf(document)) {
      const made = await unpacking(() =>
        cardPicture(this.files, layer, { document, frame, shrink: 1, show: { kind: 'build' } }),
      )
      if (!made) continue
      const { colour, covers, picture } = made
      const raster = await this.runner.run(colour, colour.window)
      const [width, height] = [widthOf(raster), heightOf(raster)]
      const pixels = this.pool.kernels.floats(raster.pointer, width * height * 4).slice()
      looks.set(layer.id, { ...{ width, height, pixels, covers }, picture })
    }
    return looks
  }

  private planned(request: Request): Promise<Node> {
    return unpacking(() => shownNode(this.files, request))
  }
}

/** Says of a picture that is too large which size is not. */
async function fitting<T>({ document: { frame } }: Request, work: () => Promise<T>): Promise<T> {
  try {
    return await work()
  } catch (error) {
    if (!(error instanceof TooLarge)) throw error
    const factor = Math.sqrt(error.budget / error.needed) * 0.95
    const size = (side: number): number => Math.max(1, Math.floor(side * factor))
    throw new BadInput(
      `${frame.width}x${frame.height} is too large for what this picture is built of: it needs ${Math.ceil(error.needed / 1048576)} MiB at a time, and there are ${Math.floor(error.budget / 1048576)}. A frame of ${size(frame.width)}x${size(frame.height)} fits.`,
    )
  }
}

const evaluated = ({ key }: Node, raster: Raster): Evaluated => ({
  ...raster,
  key,
  width: widthOf(raster),
  height: heightOf(raster),
})
