// Speed of colour at 1920x1080 on one thread: against OpenColorIO on one thread where it has the same, against a copy of
// the picture where it has not.
import { execFileSync } from 'node:child_process'
import { appliedNode } from '../core/compose/treatments'
import type { Lut } from '../core/colour/lut'
import { valuesAt } from '../core/declare/values'
import { ANY_CAMERA } from '../core/scene/scene'
import { boxOf } from '../core/engine/box'
import { scriptNode, type Node } from '../core/plan/node'
import { Runner } from '../core/plan/runner'
import { sized } from '../core/plan/size'
import { valuedTerm, slipOf } from '../core/shot/slip'
import { matteNode } from '../core/compose/mattes'
import { treatmentOf } from '../core/treatment/registry'
import { valueAt } from '../core/time/curve'
import type { EntryValue } from '../core/declare/field'
import { startEngine } from '../host/engine'
import { median, medianLater, type Figure } from './figures'

const WIDTH = 1920
const HEIGHT = 1080
const SIDE = 33

/** Milliseconds of OpenColorIO (Debian's python3-pyopencolorio) for a transform that a line of Python makes as T. */
const opencolorio = (line: string): number =>
  Number(
    execFileSync('/usr/bin/python3', [
      '-c',
      `
import numpy as np, time, PyOpenColorIO as O
P = (np.random.rand(${HEIGHT}, ${WIDTH}, 4) * 0.98).astype(np.float32)
${line}
C = O.Config.CreateRaw().getProcessor(T).getDefaultCPUProcessor()
times = []
for i in range(6):
    I = P.copy(); t = time.perf_counter(); C.applyRGBA(I); times.append(time.perf_counter() - t)
print(sorted(times[1:])[2] * 1000)`,
    ]).toString(),
  )
const LUT3D = `
T = O.Lut3DTransform(${SIDE})
T.setInterpolation(O.INTERP_TETRAHEDRAL)
for r in range(${SIDE}):
    for g in range(${SIDE}):
        for b in range(${SIDE}): T.setValue(r, g, b, (r / 32) ** 0.8, (g / 32) ** 0.9, (b / 32) ** 1.1)`
const CDL = 'T = O.CDLTransform(slope=[1.1, 1, 0.9], offset=[0.01, 0, 0], power=[1.1, 0.9, 1], sat=1.2)'

export async function colourFigures(wanted: (name: string) => boolean): Promise<Figure[]> {
  const out: Figure[] = []
  if (!['colour.lut3d', 'colour.cdl', 'colour.curves', 'colour.hues', 'colour.ciede2000'].some(wanted)) return out
  const engine = await startEngine(1)
  const runner = new Runner(engine.pool, 2 ** 30)
  const area = boxOf(WIDTH, HEIGHT)
  const size = sized({ width: WIDTH, height: HEIGHT, left: 0, top: 0 }, 1)
  const colour: Node = scriptNode(['bench colour'], 'colour', area, (to, _, kernels) => {
    const data = kernels.floats(to.pointer, WIDTH * HEIGHT * 4)
    for (let i = 0; i < data.length; i++) data[i] = i % 4 === 3 ? 1 : ((i * 7919) % 9973) / 10200
  })
  await runner.run(colour, area)
  const nothing = (): Node => colour
  const picture = { colour, depth: nothing, byDepth: (say: (depth: Node) => Node) => say(colour) }
  const table: Lut = {
    ...{ kind: '3d', size: SIDE, low: [0, 0, 0], high: [1, 1, 1] },
    data: Float32Array.from({ length: SIDE ** 3 * 3 }, (_, i) => {
      const at = Math.floor(i / 3)
      const place = [at % SIDE, Math.floor(at / SIDE) % SIDE, Math.floor(at / SIDE ** 2)][i % 3]!
      return (place / (SIDE - 1)) ** [0.8, 0.9, 1.1][i % 3]!
    }),
  }
  const treated = (id: string, values: Record<string, EntryValue>, strength: number): Node => {
    const treatment = treatmentOf(id)
    return appliedNode(
      treatment,
      {
        ...{ ...picture, strength, matte: undefined, width: WIDTH, height: HEIGHT, frame: 1, shrink: 1 },
        ...{ at: () => picture, camera: () => ANY_CAMERA, lines: undefined, pass: () => undefined },
        table: () => ({ lut: table, key: 'bench' }),
      },
      valuesAt(treatment.values, values, 1, valueAt),
    )
  }
  const from = new Float32Array(WIDTH * HEIGHT * 4).fill(0.5)
  const to = new Float32Array(from.length)
  let round = 0
  const figure = async (name: string, make: () => Node, line?: string): Promise<void> => {
    if (!wanted(name)) return
    const mine = await medianLater(7, () => runner.run(make(), area))
    const other = line ? opencolorio(line) : median(9, () => to.set(from))
    const against = line ? 'OpenColorIO, one thread' : 'a copy of the picture'
    out.push({ name, value: mine, unit: 'ms', against, ratio: other / mine })
  }
  // A little less than all of it, each time another little, so that nothing is there already
  const less = (): number => 1 - ++round * 1e-6
  await figure('colour.lut3d', () => treated('lut', {}, less()), LUT3D)
  await figure(
    'colour.cdl',
    () =>
      treated(
        'cdl',
        { slope_r: 1.1, slope_b: 0.9, offset_r: 0.01, power_r: 1.1, power_g: 0.9, saturation: 1.2 },
        less(),
      ),
    CDL,
  )
  const bent = [
    [0, 0],
    [0.3, 0.25],
    [1, 1],
  ]
  await figure('colour.curves', () => treated('curves', { all: bent, red: bent }, less()))
  await figure('colour.hues', () =>
    treated(
      'hues',
      {
        turn: [
          [29, 20],
          [264, -20],
        ],
        saturation: [[29, 1.2]],
      },
      less(),
    ),
  )
  await figure('colour.ciede2000', () => {
    const term = valuedTerm('colour')
    term.values = { ...term.values, sample: [0.2 + ++round * 1e-6, 0.4, 0.1] }
    const by = { frame: 1, size, passes: undefined, relative: false, mattes: {} }
    return matteNode(slipOf(term), picture, by) as Node
  })
  await engine.stop()
  return out
}
