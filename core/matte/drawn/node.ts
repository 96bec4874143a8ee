// Drawn contours as mattes.
import { grown, type Box } from '../../engine/box'
import { Kept } from '../../engine/kept'
import { kernelNode, type Node, type NodeArguments } from '../../plan/node'
import { ShapeMatte, StrokeMatte } from '../../../kernels/records'
import type { DrawnStroke } from '../matte'
import { piecesOf, type Contour, type Line } from './contour'
import { arcsOf, chordsOf } from './arcs'
import { edgesOf, flattened, reachOf, rowsOf, ROWS_REACH } from './rows'
import { cellsOf, NO_CELLS, type Cells } from './tables'

/** Pixels that pieces may be off their curve: of an edge, and of what distances are taken to. */
const EDGE_TOLERANCE = 0.0015
const DISTANCE_TOLERANCE = 0.01
/** Of how wide the narrowest soft edge is, where that allows more: its value is off by 0.0015 at most. */
const SOFT_TOLERANCE = 0.001
/** Of that: how far arcs are off the curve, and chords off them: what lies between is on the wrong side, twice as far off. */
const ARC = 0.4
const CHORD = 0.3

type Arguments = NodeArguments<typeof ShapeMatte>
const shapes = new Kept<Arguments>(64)
const strokes = new Kept<NodeArguments<typeof StrokeMatte>>(8)

const cellArguments = ({
  pieces,
  rows,
  list,
  left,
  top,
  columns,
  lines,
}: Cells): Pick<Arguments, 'pieces' | 'cellRows' | 'cells' | 'left' | 'top' | 'columns' | 'lines'> => ({
  pieces,
  cellRows: rows,
  cells: list,
  left,
  top,
  columns,
  lines,
})
/** Where a contour may be of account. */
const near = (area: Box): Box => grown(area, 4096)

/** No edge of it is so hard that it is laid by what it covers. */
const isSoft = ({ points }: Contour): boolean => points.every(({ outer, inner }) => outer + inner > 2)

const toleranceOf = ({ points }: Contour): number =>
  Math.max(DISTANCE_TOLERANCE, SOFT_TOLERANCE * Math.min(...points.map(({ outer, inner }) => outer + inner)))

/** How much of each pixel lies within a closed contour, soft over as many pixels as its points say; of an open one, its line. */
export function contourNode(contour: Contour, area: Box): Node {
  const told = JSON.stringify([contour, area])
  if (!contour.closed) return strokesNode([{ name: told, contour: () => contour, flow: 1, takes: false }], area)
  const given = shapes.of(told, () => {
    const isHard = contour.points.every(({ outer, inner }) => outer + inner <= 0)
    const isWhollySoft = isSoft(contour)
    const tolerance = toleranceOf(contour)
    const isNear = !isHard && reachOf(contour) <= ROWS_REACH
    const arcs = isNear ? arcsOf(contour, tolerance * ARC, near(area)) : undefined
    const reach = arcs ? reachOf(contour) + arcs.bow : 0
    // Where no edge is hard it is only asked which side of one a pixel is on
    const line = (): Line => (arcs ? chordsOf(arcs, tolerance * CHORD) : flattened(contour, tolerance, near(area)))
    const edges = edgesOf(isWhollySoft ? line() : flattened(contour, EDGE_TOLERANCE, near(area)), area)
    const far = (): Cells =>
      cellsOf(
        piecesOf(contour, tolerance, near(area)).map(piece => ({ ...piece, stroke: 0 })),
        area,
        true,
      )
    return {
      edges: edges.edges.length ? edges.edges : new Float32Array(4),
      edgeRows: edges.rows,
      list: edges.list,
      first: edges.top,
      last: edges.bottom,
      reach,
      bow: arcs?.bow ?? 0,
      ...cellArguments(isHard ? NO_CELLS : arcs ? rowsOf(arcs, contour, area, reach) : far()),
    }
  })
  return kernelNode(ShapeMatte, given, { window: area, told })
}

/** How much of each pixel lies within closed contours made straight pieces: where they turn round it. told: what they depend on. */
export function filledNode({ count, ends }: Line, area: Box, told: string): Node {
  const key = JSON.stringify(['filled', told, area])
  const given = shapes.of(key, () => {
    const { edges, rows, list, top, bottom } = edgesOf({ count, ends }, area)
    return {
      ...{ edges: edges.length ? edges : new Float32Array(4), edgeRows: rows, list, first: top, last: bottom },
      ...{ reach: 0, bow: 0, ...cellArguments(NO_CELLS) },
    }
  })
  return kernelNode(ShapeMatte, given, { window: area, told: key })
}

/** Strokes, each over those before it. */
export function strokesNode(all: readonly DrawnStroke[], area: Box): Node {
  const told = JSON.stringify([all, area])
  const given = strokes.of(told, () => {
    const pieces = all.flatMap((drawn, stroke) => {
      const contour = drawn.contour()
      const tolerance = isSoft(contour) ? toleranceOf(contour) : EDGE_TOLERANCE
      return piecesOf(contour, tolerance, near(area)).map(piece => ({ ...piece, stroke }))
    })
    const table = Float32Array.from(all.flatMap(({ flow, takes }) => [flow, takes ? 1 : 0]))
    return { strokes: table.length ? table : new Float32Array(2), ...cellArguments(cellsOf(pieces, area, false)) }
  })
  return kernelNode(StrokeMatte, given, { window: area, told })
}
