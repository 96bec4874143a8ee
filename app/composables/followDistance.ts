// How far away what is at a place of the picture is, from frame to frame, by the passes.
import { curveOf, placeFollowed } from '../../core/shot/along'
import type { Animatable } from '../../core/time/curve'
import { engine } from './engine'
import { useShot } from '~/stores/shot'
import { useView } from '~/stores/view'

/** A distance is left without a key where the line between its neighbours is so near, as a share of it. */
const NEAR = 0.002

/** at: pixels of the frame. Throws why it cannot be. */
export async function distanceFollowed(at: readonly [number, number]): Promise<Animatable> {
  const shot = useShot()
  const view = useView()
  const document = shot.document!
  const { frame } = shot
  const places = await placeFollowed(at, frame, document.frames, (now, asked) =>
    engine.going(document, now, asked, view.layerAtWork),
  )
  if (!places) throw new Error('Nothing is there that the passes of motion know.')
  const { width, height } = document.frame
  const found: [number, number][] = []
  for (const [now, [x, y]] of [...places].sort(([a], [b]) => a - b)) {
    const { metres } = await engine.read(
      { document, frame: now, shrink: 1, show: { kind: 'build' }, stops: 0, channel: 0, layer: view.layerAtWork },
      x / width,
      y / height,
    )
    if (metres) found.push([now, metres])
  }
  if (!found.some(([now]) => now === frame)) throw new Error('Nothing is known to stand there at this frame.')
  if (found.length < 2) throw new Error('It is seen at this frame only.')
  return curveOf(found, NEAR * Math.min(...found.map(([, metres]) => metres)), frame)
}
