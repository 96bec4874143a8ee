// Speed, as ratios against general-purpose references measured in the same run. Medians of several rounds, after
// warm-up.
import { deflateSync, inflateSync } from 'node:zlib'
import { Kernels } from '../core/engine/memory'
import { byteRestorer } from '../core/engine/unpack'
import { useRestorer } from '../core/formats/exr/bytes'
import { emptyWindow, readExr, writeExr, type ExrChannel } from '../core/formats/exr/exr'
import { floatsToHalves } from '../core/formats/exr/half'
import { kernelModule, useNode } from '../host/engine'
import { buildFigures, imageFigures } from './benchBuild'
import { colourFigures } from './benchColour'
import { layerFigures } from './benchLayers'
import { lensFigures } from './benchLens'
import { lightFigures } from './benchLight'
import { matteFigures } from './benchMattes'
import { recipeFigures } from './benchRecipe'
import { rayFigures } from './benchRays'
import { samplingFigures } from './benchSampling'
import { renderFigures } from './benchRender'
import { stuckFigures } from './benchStuck'
import { timeFigures } from './benchTime'
import { median, type Figure } from './figures'

function exr(wanted: (name: string) => boolean): Figure[] {
  if (!wanted('exr.zip.read') && !wanted('exr.zip.write')) return []
  useNode()
  useRestorer(byteRestorer(new Kernels(kernelModule())))
  const width = 1920
  const height = 1080
  const count = width * height
  const channels = Array.from({ length: 8 }, (_, c): ExrChannel => ({
    name: `C${c}`,
    type: 'half',
    linear: false,
    data: floatsToHalves(
      Float32Array.from({ length: count }, (_, i) => Math.sin(i * 0.001 * (c + 1)) + ((i * 2654435761) % 1000) / 50000),
    ),
  }))
  const image = {
    dataWindow: emptyWindow(width, height),
    displayWindow: emptyWindow(width, height),
    compression: 'zip' as const,
    channels,
    attributes: [],
  }
  const file = writeExr(image)
  const raw = (count * 8 * 2) / 1048576
  // The zlib alone on the same bytes in blocks of the same size
  const block = width * 8 * 2 * 16
  const bytes = new Uint8Array(count * 16)
  channels.forEach((channel, c) => bytes.set(new Uint8Array(channel.data.buffer), c * count * 2))
  const packed: Uint8Array[] = []
  const write = median(3, () => {
    packed.length = 0
    for (let at = 0; at < bytes.length; at += block)
      packed.push(deflateSync(bytes.subarray(at, at + block), { level: 4 }))
  })
  const read = median(5, () => {
    for (const part of packed) inflateSync(part)
  })
  return [
    {
      name: 'exr.zip.read',
      value:
        (raw /
          median(5, () => {
            readExr(file)
          })) *
        1000,
      unit: 'MB/s',
      against: 'zlib alone',
      ratio:
        read /
        median(5, () => {
          readExr(file)
        }),
    },
    {
      name: 'exr.zip.write',
      value:
        (raw /
          median(3, () => {
            writeExr(image)
          })) *
        1000,
      unit: 'MB/s',
      against: 'zlib alone',
      ratio:
        write /
        median(3, () => {
          writeExr(image)
        }),
    },
  ].filter(figure => wanted(figure.name))
}

/** more: figures that need what only the caller has (a browser). */
export async function bench(
  args: string[],
  more: (wanted: (name: string) => boolean) => Promise<Figure[]> = async () => [],
): Promise<void> {
  const start = args.find(arg => !arg.startsWith('-')) ?? ''
  const json = args.includes('--json')
  const wanted = (name: string): boolean => name.startsWith(start)
  const print = (list: Figure[]): void => {
    for (const figure of list)
      console.log(
        json
          ? JSON.stringify(figure)
          : `${figure.name.padEnd(18)} ${figure.value.toFixed(2).padStart(9)} ${figure.unit.padEnd(15)} ${figure.ratio.toFixed(2).padStart(7)} x ${figure.against}`,
      )
  }
  print(rayFigures(wanted))
  print(imageFigures(wanted))
  print(exr(wanted))
  print(await renderFigures(wanted))
  print(await samplingFigures(wanted))
  print(await buildFigures(wanted))
  print(await matteFigures(wanted))
  print(await layerFigures(wanted))
  print(stuckFigures(wanted))
  print(await lensFigures(wanted))
  print(await recipeFigures(wanted))
  print(await colourFigures(wanted))
  print(lightFigures(wanted))
  print(await timeFigures(wanted))
  print(await more(wanted))
}
