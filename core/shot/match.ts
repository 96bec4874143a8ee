// The match of a shot: what was drawn on the plate, and the camera that follows from it.
import { solveLines, type Axis, type LineSolution } from '../match/lines'
import { lensFromFocal, type Lens } from '../match/lens'
import { solvePoints, type PointSolution } from '../match/points'
import { matrixOf, rotationOf } from '../match/rotation'
import type { Camera } from '../scene/scene'
import { degreesFromRotation } from '../scene/vector'
import { valueAt } from '../time/curve'
import type { CameraSettings, MatchSettings, ShotDocument } from './document'
import { inOrder } from './rows'
import { cameraAt } from './scene'

export const noMatch = (): MatchSettings => ({ lines: {}, focal: 'solve', poles: {} })

/** What the axes are called where one stands: across, up, away. */
export const AXIS_WORDS: Record<Axis, string> = { x: 'across', y: 'up', z: 'away' }

export interface MatchedCamera extends LineSolution {
  camera: Pick<CameraSettings, 'focalLength' | 'heading' | 'pitch' | 'bank' | 'shiftX' | 'shiftY'>
}

/** Where a camera's optical axis meets the picture, pixels. */
const axisOf = ({ shiftX, shiftY }: Camera, width: number, height: number): [number, number] => [
  ((1 - shiftX) / 2) * width,
  ((1 + shiftY) / 2) * height,
]

/** The camera that the drawn lines say. Throws BadInput with what is missing. */
export function matchLines(document: ShotDocument, frame: number): MatchedCamera {
  const match = document.match ?? noMatch()
  const { width, height } = document.frame
  const { camera } = document.scene
  const sensor = valueAt(camera.sensorWidth, frame)
  const now = cameraAt(camera, frame)
  const solution = solveLines(inOrder(match.lines), {
    width,
    height,
    focal: match.focal === 'keep' ? (now.focalLength / sensor) * width : undefined,
    near: rotationOf(now.matrix),
    centre: match.centre,
    axis: axisOf(now, width, height),
  })
  const { heading, tilt, bank } = degreesFromRotation(matrixOf(solution.rotation, [0, 0, 0]))
  const round = (value: number, digits: number): number => Number(value.toFixed(digits))
  return {
    ...solution,
    camera: {
      focalLength:
        match.focal === 'keep' ? valueAt(camera.focalLength, frame) : round((solution.focal / width) * sensor, 3),
      heading: round(heading, 3),
      pitch: round(tilt, 3),
      bank: round(bank, 3),
      ...(match.centre
        ? {
            shiftX: round(1 - (2 * solution.centre[0]) / width, 5),
            shiftY: round((2 * solution.centre[1]) / height - 1, 5),
          }
        : {}),
    },
  }
}

/** The camera that the known points say. Throws BadInput with what is missing. */
export function matchPoints(
  document: ShotDocument,
  frame: number,
): PointSolution & {
  camera: Pick<CameraSettings, 'focalLength' | 'x' | 'y' | 'z' | 'heading' | 'pitch' | 'bank'>
  lens?: Lens
} {
  const match = document.match ?? noMatch()
  const { width, height } = document.frame
  const { camera } = document.scene
  const sensor = valueAt(camera.sensorWidth, frame)
  const now = cameraAt(camera, frame)
  const keep = match.focal === 'keep'
  const solution = solvePoints(
    inOrder(match.points).map(({ world, pixel }) => ({ world, pixel })),
    {
      width,
      height,
      focal: keep ? (now.focalLength / sensor) * width : undefined,
      radial: match.pointsLens ? true : 0,
      centre: axisOf(now, width, height),
      near: rotationOf(now.matrix),
    },
  )
  const { heading, tilt, bank } = degreesFromRotation(matrixOf(solution.rotation, solution.place))
  const round = (value: number, digits = 4): number => Number(value.toFixed(digits))
  const [x, y, z] = solution.place
  return {
    ...solution,
    camera: {
      focalLength: keep ? valueAt(camera.focalLength, frame) : round((solution.focal / width) * sensor),
      x: round(x),
      y: round(y),
      z: round(z),
      heading: round(heading),
      pitch: round(tilt),
      bank: round(bank),
    },
    lens: match.pointsLens ? lensFromFocal({ k1: solution.radial, k2: 0 }, width, solution.focal) : undefined,
  }
}
