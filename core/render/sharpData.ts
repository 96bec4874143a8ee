// Passes of data of the frame itself beside light that was gathered while the shutter was open.
import type { Pool } from '../engine/pool'
import type { CompiledScene } from './compile'
import { passOf } from './passes'
import type { RenderedPasses } from './planes'
import { Render, type RenderSettings } from './render'

const DATA = ['direction', 'metres', 'place', 'motion', 'uv', 'id', 'coverage']
/** Whether a pass says where things are and which: a mean of several moments would say neither. */
export const isData = (id: string): boolean => id !== 'catcher_id' && DATA.includes(passOf(id)?.kind ?? '')

/** A render from its first to its last sample. */
export function renderedAtOnce(pool: Pool, scene: CompiledScene, settings: RenderSettings): RenderedPasses {
  const render = new Render(pool, scene, settings)
  try {
    while (!render.done) render.step(settings.samples)
    return render.snapshot()
  } finally {
    render.dispose()
  }
}

/** Of the passes of data those of another render of the same size. */
export function takeData(to: RenderedPasses, from: RenderedPasses): void {
  const { depth, depthMean, normal, normalCamera, position, rest, uv, motionForward, motionBack } = from
  const { objectId, materialId, through, mirrored, coverage } = from
  const taken = { depth, depthMean, normal, normalCamera, position, rest, uv, motionForward, motionBack }
  const all = { ...taken, objectId, materialId, through, mirrored }
  for (const [name, plane] of Object.entries(all)) if (plane) Object.assign(to, { [name]: plane })
  Object.assign(to.coverage, coverage)
}
