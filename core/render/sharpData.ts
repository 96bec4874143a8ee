// Passes of data of the frame itself beside light that was gathered while the shutter was open.
import type { Pool } from '../engine/pool'
import type { CompiledScene } from './compile'
import { passOf } from './passes'
import type { RenderedPasses } from './planes'
import { Render, type RenderSettings } from './render'

/** Of what is rendered, what is of the moments of the shutter. */
export const ofMoments = (passes: readonly string[], sharp: boolean): string[] =>
  passes.filter(id => !sharp || !isData(id))
const DATA = ['direction', 'metres', 'place', 'motion', 'uv', 'id', 'coverage']
/** Whether a pass says where things are and which: a mean of several moments would say neither. */
const isData = (id: string): boolean => id !== 'catcher_id' && DATA.includes(passOf(id)?.kind ?? '')

/** Passes get their data from a render of the frame itself. settings: of the render that they are of, without its moments. */
export function sharpen(to: RenderedPasses, pool: Pool, scene: CompiledScene, settings: RenderSettings): void {
  const passes = settings.passes.filter(isData)
  if (!passes.length) return
  const render = new Render(pool, scene, { ...settings, passes })
  try {
    while (!render.done) render.step(settings.samples)
    takeData(to, render.snapshot())
  } finally {
    render.dispose()
  }
}

/** Of the passes of data those of another render of the same size. */
function takeData(to: RenderedPasses, from: RenderedPasses): void {
  const { depth, depthMean, normal, normalCamera, position, rest, uv, motionForward, motionBack } = from
  const { objectId, materialId, through, mirrored, coverage } = from
  const taken = { depth, depthMean, normal, normalCamera, position, rest, uv, motionForward, motionBack }
  const all = { ...taken, objectId, materialId, through, mirrored }
  for (const [name, plane] of Object.entries(all)) if (plane) Object.assign(to, { [name]: plane })
  Object.assign(to.coverage, coverage)
}
