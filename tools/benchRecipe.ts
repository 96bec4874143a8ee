// Speed and memory of a long recipe at 1280x720 on two workers: the demo's bell house with twenty treatments at its finish,
// among them Focus and three that soften.
import { displayCodes } from '../core/compose/deliver'
import { Evaluator } from '../core/compose/evaluate'
import { firstValues } from '../core/declare/values'
import type { EntryValue } from '../core/declare/field'
import { newTreatment, type ShotDocument } from '../core/shot/document'
import { rowsOf } from '../core/shot/rows'
import { treatmentOf } from '../core/treatment/registry'
import { demoFile } from '../host/demofile'
import { startEngine } from '../host/engine'
import { bellHouse } from './benchBuild'
import { middle, type Figure } from './figures'

const LINES: readonly (readonly [kind: string, values?: Record<string, EntryValue>])[] = [
  ['exposure', { stops: 0.2 }],
  ['balance', { from: 5600, to: 6200 }],
  ['levels', { black: 0.002 }],
  ['contrast', { amount: 1.1 }],
  ['saturation', { amount: 1.1 }],
  ['hue', { turn: 3 }],
  ['focus', { distance: 8, fNumber: 1.4, most: 19 }],
  ['diffusion', { amount: 0.2, size: 10 }],
  ['glow', { amount: 0.3, threshold: 1, size: 40 }],
  ['tint', { amount: 0.1 }],
  ['tones', { shadows: 0.1 }],
  ['unsharp', { amount: 0.5, radius: 1.5 }],
  ['cdl', { saturation: 1.05 }],
  ['blur', { radius: 2 }],
  ['curves'],
  ['range', { saturation: 1.2 }],
  ['shoulder', { start: 0.7 }],
  ['grain', { amount: 0.04 }],
  ['vignette', { amount: 0.3 }],
  ['exposure', { stops: -0.1 }],
]

/** The recipe with one of its lines' values moved a little. */
function withMoved(which: number, by: number): ShotDocument {
  const lines = LINES.map(([kind, values = {}], i) => {
    const all = { ...firstValues(treatmentOf(kind).values), ...values }
    if (i === which) all.stops = (all.stops as number) + by
    return newTreatment(kind, all as Record<string, EntryValue>, `line${i}`)
  })
  return { ...bellHouse(), frame: { width: 1280, height: 720 }, finish: rowsOf(lines) }
}

export async function recipeFigures(wanted: (name: string) => boolean): Promise<Figure[]> {
  if (!wanted('recipe.last') && !wanted('recipe.first') && !wanted('recipe.memory')) return []
  const engine = await startEngine(2)
  const evaluator = new Evaluator(engine.pool, async blob => demoFile(blob.slice(1)))
  /** Milliseconds from a value that is dragged to codes on the screen. */
  const dragged = async (which: number): Promise<number> => {
    const times: number[] = []
    for (let i = 0; i < 10; i++) {
      const document = withMoved(which, 0.001 + i / 200)
      const begun = performance.now()
      const made = await evaluator.evaluate({ document, frame: 1, shrink: 1, show: { kind: 'finish' } })
      displayCodes(engine.pool, made, document.view)
      if (i > 2) times.push(performance.now() - begun)
    }
    return middle(times)
  }
  const [last, first] = [await dragged(LINES.length - 1), await dragged(0)]
  const peak = engine.kernels.peak / 1048576
  engine.stop()
  return [
    { name: 'recipe.last', value: last, unit: 'ms', against: 'aim of 40 ms', ratio: 40 / last },
    { name: 'recipe.first', value: first, unit: 'ms', against: 'aim of 400 ms', ratio: 400 / first },
    { name: 'recipe.memory', value: peak, unit: 'MiB at most', against: '1.2 GiB', ratio: 1228.8 / peak },
  ].filter(({ name }) => wanted(name))
}
