// Where on the frame lies what lines of slips are said of: a figure's lines are said of its own picture.
import { figureOfTerm, onFrame } from '../../core/shot/figures'
import type { ShotDocument } from '../../core/shot/document'
import type { Xy } from './overPicture'

export interface OwnPlaces {
  /** Pixels of its own picture. */
  width: number
  height: number
  /** Own pixels to those of the frame, and back. */
  to(place: Xy): Xy
  from(place: Xy): Xy
  /** Pixels of the frame to one of its own, about the middle. */
  scale: number
  /** What lies over all of the picture, zoom pixels of the screen to one of the frame, brought to where its own lies. */
  transform(zoom: number): string
}

/** Of a line by its id; undefined where it is said of the frame itself. */
export function ownPlaces(document: ShotDocument, frame: number, term: string): OwnPlaces | undefined {
  const figure = figureOfTerm(document, term)
  const maps = figure && onFrame(figure, document, frame)
  if (!maps) return undefined
  const mapped = (m: readonly number[], [x, y]: Xy): Xy => {
    const over = m[6]! * x + m[7]! * y + m[8]!
    return [(m[0]! * x + m[1]! * y + m[2]!) / over, (m[3]! * x + m[4]! * y + m[5]!) / over]
  }
  const { width, height } = figure.picture
  const [left, right] = [0.25, 0.75].map(share => mapped(maps.to, [width * share, height / 2])) as [Xy, Xy]
  return {
    ...{ width, height },
    to: place => mapped(maps.to, place),
    from: place => mapped(maps.from, place),
    scale: Math.hypot(right[0] - left[0], right[1] - left[1]) / (width / 2),
    transform: zoom => {
      // Pixels of the screen to own pixels, those to the frame's, and back to the screen
      const across = width / (document.frame.width * zoom)
      const down = height / (document.frame.height * zoom)
      const [a, b, c, d, e, f, g, h, i] = maps.to.map(value => value / maps.to[8]!) as [number, number, number, number, number, number, number, number, number] // prettier-ignore
      return `matrix3d(${[
        [a * across * zoom, d * across * zoom, 0, g * across],
        [b * down * zoom, e * down * zoom, 0, h * down],
        [0, 0, 1, 0],
        [c * zoom, f * zoom, 0, i],
      ].join()})`
    },
  }
}
