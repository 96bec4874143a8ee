// Speed, as ratios against general-purpose references measured in the same run. Medians of several rounds, after
// warm-up.
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { deflateSync, inflateSync } from 'node:zlib'
import { Evaluator } from '../core/compose/evaluate'
import { displayCodes } from '../core/compose/deliver'
import { Kernels } from '../core/engine/memory'
import { Pool } from '../core/engine/pool'
import { byteRestorer } from '../core/engine/unpack'
import { useRestorer } from '../core/formats/exr/bytes'
import { emptyWindow, readExr, writeExr, type ExrChannel } from '../core/formats/exr/exr'
import { floatsToHalves } from '../core/formats/exr/half'
import type { ShotDocument } from '../core/shot/document'
import { kernelModule, startEngine, useNode } from '../host/engine'
import { demoFile, demoFolder } from '../host/demofile'
import { BAND_ROWS, KERNEL_BLEND, KERNEL_CDL } from '../kernels/assembly/layout'
import { treatmentOf } from '../core/treatment/registry'
import { rayFigures } from './benchRays'
import { samplingFigures } from './benchSampling'
import { renderFigures } from './benchRender'
import { timeFigures } from './benchTime'
import { median, medians, type Figure } from './figures'

function images(wanted: (name: string) => boolean): Figure[] {
  const width = 1920
  const height = 1080
  const pixels = width * height
  const out: Figure[] = []
  const pool = new Pool(new Kernels(kernelModule()))
  const { kernels } = pool
  const a = kernels.allocate(pixels * 16)
  const b = kernels.allocate(pixels * 16)
  const c = kernels.allocate(pixels * 16)
  for (const pointer of [a, b]) {
    const data = kernels.floats(pointer, pixels * 4)
    for (let i = 0; i < data.length; i++) data[i] = ((i * 7919) % 1000) / 1000
  }
  const bands = Math.ceil(height / BAND_ROWS)
  const x = kernels.floats(a, pixels * 4).slice()
  const y = kernels.floats(b, pixels * 4).slice()
  const z = new Float32Array(pixels * 4)
  const copy = (): void => {
    z.set(x)
  }
  if (wanted('image.over')) {
    const plain = (): void => {
      for (let i = 0; i < z.length; i += 4) {
        const k = 1 - y[i + 3]!
        z[i] = y[i]! + x[i]! * k
        z[i + 1] = y[i + 1]! + x[i + 1]! * k
        z[i + 2] = y[i + 2]! + x[i + 2]! * k
        z[i + 3] = y[i + 3]! + x[i + 3]! * k
      }
    }
    const ours = (): void => pool.run(KERNEL_BLEND, bands, [width, height, a, b, c, 0, { float: 1 }, 0])
    const [mine, other, copied] = medians(15, ours, plain, copy)
    out.push(
      { name: 'image.over', value: mine, unit: 'ms', against: 'plain typed arrays', ratio: other / mine },
      { name: 'image.over', value: mine, unit: 'ms', against: 'memory copy', ratio: copied / mine },
    )
  }
  if (wanted('image.grade')) {
    const values = {
      slope_r: 1.2,
      slope_g: 1,
      slope_b: 0.9,
      offset_r: 0.01,
      offset_g: 0,
      offset_b: 0,
      power_r: 1.1,
      power_g: 0.9,
      power_b: 1.05,
      saturation: 0.8,
    }
    const plain = (): void => {
      for (let i = 0; i < z.length; i += 4) {
        const r = Math.max(0, x[i]! * 1.2 + 0.01) ** 1.1
        const g = Math.max(0, x[i + 1]!) ** 0.9
        const bl = Math.max(0, x[i + 2]! * 0.9) ** 1.05
        const l = r * 0.2126 + g * 0.7152 + bl * 0.0722
        z[i] = l + (r - l) * 0.8
        z[i + 1] = l + (g - l) * 0.8
        z[i + 2] = l + (bl - l) * 0.8
        z[i + 3] = x[i + 3]!
      }
    }
    kernels.floats(a, pixels * 4).forEach((_, i, data) => {
      if (i % 4 === 3) data[i] = 1
    })
    const ours = (): void =>
      pool.run(KERNEL_CDL, bands, [
        width,
        height,
        a,
        c,
        0,
        { float: 1 },
        1,
        0,
        ...treatmentOf('cdl').words(values, { width, height, shrink: 1 }),
      ])
    const [mine, other, copied] = medians(7, ours, plain, copy)
    out.push(
      { name: 'image.grade', value: mine, unit: 'ms', against: 'plain typed arrays', ratio: other / mine },
      { name: 'image.grade', value: mine, unit: 'ms', against: 'memory copy', ratio: copied / mine },
    )
  }
  return out
}

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

async function faders(wanted: (name: string) => boolean): Promise<Figure[]> {
  const names = ['build.fader.full', 'build.fader.half'].filter(wanted)
  if (!names.length) return []
  const [shot] = JSON.parse(readFileSync(join(demoFolder(), 'shots.json'), 'utf8')) as { document: ShotDocument }[]
  const engine = await startEngine()
  const evaluator = new Evaluator(engine.pool, async blob => demoFile(blob.slice(1)))
  const document = { ...shot!.document, frame: { width: 1280, height: 720 } }
  const out: Figure[] = []
  for (const name of names) {
    const shrink = name.endsWith('half') ? (2 as const) : (1 as const)
    const times: number[] = []
    for (let i = 0; i < 14; i++) {
      const moved = structuredClone(document)
      moved.build.desk.objects.bell = { ...moved.build.desk.objects.bell, reflection: 1 + i / 40 }
      const start = performance.now()
      displayCodes(
        engine.pool,
        await evaluator.evaluate({ document: moved, frame: 1, shrink, show: { kind: 'finish' } }),
        moved.view,
      )
      if (i > 3) times.push(performance.now() - start)
    }
    const mine = times.sort((a, b) => a - b)[Math.floor(times.length / 2)]!
    const aim = shrink === 1 ? 100 : 33
    out.push({ name, value: mine, unit: 'ms', against: `aim of ${aim} ms`, ratio: aim / mine })
  }
  engine.stop()
  return out
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
  print(images(wanted))
  print(exr(wanted))
  print(await renderFigures(wanted))
  print(await samplingFigures(wanted))
  print(await faders(wanted))
  print(await timeFigures(wanted))
  print(await more(wanted))
}
