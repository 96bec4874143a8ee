import { rowValues } from '../declare/field'
import { kernelNode } from '../plan/node'
import { MeshPlaces } from '../../kernels/records'
import type { TreatmentHandles } from './handles'
import { shape, SHAPE_SENTENCE, SHAPE_VALUES } from './shape'

/** Points to a side. */
const SIDE = 5
const POINTS = Array.from({ length: SIDE * SIDE }, (_, i) => ({ column: i % SIDE, row: Math.floor(i / SIDE) }))
const nameOf = ({ column, row }: (typeof POINTS)[number]): string => `${column + 1}.${row + 1}`

function handles(
  values: Readonly<Record<string, unknown>>,
  frame: { width: number; height: number },
): TreatmentHandles {
  const moved = values.moved as readonly number[]
  const at = (column: number, row: number): readonly [number, number] => {
    const i = (row * SIDE + column) * 2
    return [(column / (SIDE - 1) + moved[i]!) * frame.width, (row / (SIDE - 1) + moved[i + 1]!) * frame.height]
  }
  const along = Array.from({ length: SIDE }, (_, k) => k)
  return {
    of: 'frame',
    grips: POINTS.map(point => ({
      id: nameOf(point),
      label: `point ${nameOf(point)}`,
      at: at(point.column, point.row),
    })),
    lines: along.flatMap(k => [along.map(i => at(i, k)), along.map(i => at(k, i))]),
    moved: (grip, [x, y]) => {
      const index = POINTS.findIndex(point => nameOf(point) === grip)
      const { column, row } = POINTS[index]!
      const all = [...moved]
      all[index * 2] = x / frame.width - column / (SIDE - 1)
      all[index * 2 + 1] = y / frame.height - row / (SIDE - 1)
      return { moved: all }
    },
  }
}

export const mesh = shape({
  id: 'mesh',
  label: 'Mesh',
  help: 'The picture bent by a mesh of points, each of which is dragged on it: what lies between follows smoothly.',
  sentence: `Bent by a mesh, {moved}${SHAPE_SENTENCE}`,
  handles,
  values: {
    moved: rowValues(
      POINTS.flatMap(point => [`point ${nameOf(point)} across`, `point ${nameOf(point)} down`]),
      {
        label: 'points',
        help: 'How far each point is moved, in widths and heights of the frame, row by row from the left top.',
        hand: [-2, 2],
        low: -4,
        high: 4,
        step: 0.001,
        digits: 4,
        neutral: 0,
        onPicture: true,
      },
    ),
    ...SHAPE_VALUES,
    beyond: { ...SHAPE_VALUES.beyond, first: 'its edge' },
  },
  neutral: ['moved'],
  shown: {
    moved: POINTS.flatMap(({ column, row }) =>
      column === 2 && row === 2 ? [0.08, -0.06] : column === 3 && row === 1 ? [-0.05, 0.08] : [0, 0],
    ),
  },
  places: ({ width, height }, { moved }, places) => {
    const all = moved as readonly number[]
    const mesh = Float32Array.from(all, (share, i) => share * (i % 2 ? height : width))
    return kernelNode(
      MeshPlaces,
      { map: places, mesh, columns: SIDE, rows: SIDE, width, height },
      { window: places.window },
    )
  },
})
