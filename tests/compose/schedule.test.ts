// In which order a picture is computed and what memory that takes, without kernels.
import { expect, it } from 'vitest'
import { boxOf, type Box } from '../../core/engine/box'
import { kernelNode, scriptNode, type Node } from '../../core/plan/node'
import { schedule, type Action, type Schedule } from '../../core/plan/schedule'
import { Gain } from '../../core/treatment/exposure'
import { Blend, Halve, Mix, Shift } from '../../kernels/records'

const WINDOW = boxOf(100, 50)
const BYTES = 100 * 50 * 16
const file = (name: string, window = WINDOW): Node => scriptNode(['file', name], 'colour', window, () => {})
const gain = (source: Node, factor: number): Node =>
  kernelNode(Gain, { source, gain: [factor, factor, factor], strength: 1, straight: 0 }, { window: source.window })
/** Needs three pixels round each. */
const soft = (source: Node): Node => kernelNode(Shift, { source, dx: 0, dy: 0 }, { window: source.window, reach: 3 })
const over = (backdrop: Node, source: Node): Node =>
  kernelNode(
    Blend,
    { backdrop, source, mode: 0, opacity: 1 },
    { window: backdrop.window, only: { where: 'source', elsewhere: 'backdrop' } },
  )
const kinds = ({ actions }: Schedule): string[] =>
  actions.map(action =>
    action.kind === 'run' ? `run ${action.steps.map(step => step.kernel.name).join(' ')}` : action.kind,
  )
const runs = ({ actions }: Schedule): Extract<Action, { kind: 'run' }>[] =>
  actions.filter(action => action.kind === 'run')

it('a row of treatments is one program on two pictures, however long it is', () => {
  let node = file('a')
  for (let i = 0; i < 100; i++) node = gain(node, 1 + i)
  const plan = schedule(node, WINDOW)
  expect(kinds(plan)).toEqual(['make', `run ${Array(100).fill('Gain').join(' ')}`, 'drop'])
  expect(plan.peak).toBe(2 * BYTES)
  expect(runs(plan)[0]!.slots).toBe(1)
})

it('only what an area needs is asked for: it grows by the reach of each operator and ends with the picture', () => {
  const plan = schedule(soft(gain(soft(file('a')), 2)), { left: 40, top: 0, right: 60, bottom: 10 })
  const boxes = plan.actions.filter(action => action.kind !== 'drop').map(action => (action as { box: Box }).box)
  expect(boxes).toEqual([
    { left: 34, top: 0, right: 66, bottom: 16 },
    { left: 37, top: 0, right: 63, bottom: 13 },
    { left: 40, top: 0, right: 60, bottom: 10 },
  ])
})

it('a picture made smaller asks for twice as much of what it is made of', () => {
  const half = kernelNode(
    Halve,
    { source: file('a') },
    {
      window: boxOf(50, 25),
      needs: b => ({ left: b.left * 2, top: b.top * 2, right: b.right * 2, bottom: b.bottom * 2 }),
    },
  )
  const [make] = schedule(half, { left: 10, top: 5, right: 20, bottom: 10 }).actions
  expect(make).toMatchObject({ kind: 'make', box: { left: 20, top: 10, right: 40, bottom: 20 } })
})

it('what several use is laid out once, and let go after the last', () => {
  const shared = gain(file('a'), 2)
  const plan = schedule(
    kernelNode(Mix, { first: gain(shared, 3), second: gain(shared, 4), share: 0.5 }, { window: WINDOW }),
    WINDOW,
  )
  expect(kinds(plan)).toEqual(['make', 'run Gain', 'drop', 'run Gain Gain Mix', 'drop'])
  expect(plan.peak).toBe(2 * BYTES)
})

it('many soft layers over one another never hold more than a few pictures', () => {
  const peakOf = (count: number): number => {
    let node = soft(file('plate'))
    for (let i = 0; i < count; i++) node = over(node, soft(gain(file(`layer ${i}`), i)))
    return schedule(node, WINDOW).peak
  }
  expect(peakOf(3)).toBeLessThanOrEqual(4 * BYTES)
  expect(peakOf(30)).toBe(peakOf(3))
})

it('groups in groups cost one picture for each level', () => {
  const nested = (depth: number): Node =>
    depth === 0 ? soft(file('leaf')) : over(soft(file(`under ${depth}`)), soft(nested(depth - 1)))
  expect(schedule(nested(9), WINDOW).peak).toBeLessThanOrEqual(12 * BYTES)
})

it('where a layer is not, nothing is done for it', () => {
  const small = file('small', { left: 10, top: 10, right: 20, bottom: 20 })
  const plan = schedule(over(file('plate'), gain(small, 2)), WINDOW)
  const program = runs(plan).at(-1)!
  expect(program.steps.map(step => [step.kernel.name, step.area])).toEqual([
    ['Shift', WINDOW],
    ['Gain', small.window],
    ['Blend', small.window],
  ])
  const away = schedule(over(file('plate'), gain(small, 2)), { left: 50, top: 0, right: 100, bottom: 50 })
  expect(kinds(away)).toEqual(['make', 'run Shift', 'drop'])
})

it('what is there already is not asked for again, nor anything that only it needs', () => {
  const stays = gain(soft(file('a')), 2)
  const plan = schedule(gain(stays, 3), WINDOW, { there: node => node.key === stays.key })
  expect(kinds(plan)).toEqual(['run Gain'])
  expect([...plan.ready]).toEqual([stays.key])
  expect(plan.peak).toBe(BYTES)
})

it('what is to be kept is laid out though only one needs it', () => {
  const stays = gain(file('a'), 2)
  const plan = schedule(gain(stays, 3), WINDOW, { keep: new Set([stays.key]) })
  expect(kinds(plan)).toEqual(['make', 'run Gain', 'drop', 'run Gain'])
})

it('files that are too many to be laid out are made rows by rows along with the one program that reads them', () => {
  const tall = boxOf(100, 500)
  const layers = Array.from({ length: 9 }, (_, i) => gain(file(`part ${i}`, tall), i + 1))
  const sum = layers.reduce((first, second) => kernelNode(Mix, { first, second, share: 0.5 }, { window: tall }))
  const laid = schedule(sum, tall)
  expect(laid.peak).toBe(10 * 100 * 500 * 16)
  const streamed = schedule(sum, tall, { streamFrom: 1e6 })
  expect(kinds(streamed)).toEqual([kinds(laid).find(kind => kind.startsWith('run'))])
  expect(streamed.peak).toBe((500 + 9 * 64) * 100 * 16)
  expect(runs(streamed)[0]!.streams.map(({ needs }) => needs({ left: 5, top: 64, right: 50, bottom: 128 }))).toEqual(
    Array(9).fill({ left: 5, top: 64, right: 50, bottom: 128 }),
  )
  // What two programs read, or what is kept, is laid out
  const shared = file('part 0', tall)
  const two = kernelNode(Mix, { first: soft(gain(shared, 2)), second: gain(shared, 3), share: 0.5 }, { window: tall })
  expect(kinds(schedule(two, tall, { streamFrom: 0 }))[0]).toBe('make')
})

it('keys tell values, tables and inputs apart', () => {
  const a = file('a')
  expect(gain(a, 2).key).toBe(gain(file('a'), 2).key)
  expect(
    new Set([gain(a, 2), gain(a, 3), gain(file('b'), 2), soft(a), gain(soft(a), 2)].map(node => node.key)).size,
  ).toBe(5)
})
