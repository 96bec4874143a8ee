// The lens that a shot says a render is taken through, at a frame.
import { valuesAt } from '../declare/values'
import { LENS_VALUES } from '../lens/values'
import type { TrueLens } from '../render/render'
import { valueAt } from '../time/curve'
import type { LensOfRender } from './schema/passes'

export function trueLensAt({ sharpData, ...settings }: LensOfRender, frame: number): TrueLens {
  const { distance, fNumber, ...aperture } = valuesAt(LENS_VALUES, settings, frame, valueAt)
  return { distance, fNumber, aperture, sharpData }
}
