import type { ShotDocument } from '../shot/document'
import type { Evaluator } from './evaluate'

/**
 * The plate as its camera sees it, without lens: what stand-ins for it send. At half size: it is seen in reflections
 * and bounce only.
 */
export async function plateLight(
  evaluator: Evaluator,
  document: ShotDocument,
  frame: number,
): Promise<{ width: number; height: number; pixels: Float32Array }> {
  const { width, height, pointer } = await evaluator.evaluate({
    document,
    frame,
    shrink: document.frame.width > 1024 ? 2 : 1,
    show: { kind: 'plate', straight: true },
  })
  return { width, height, pixels: evaluator.pool.kernels.floats(pointer, width * height * 4).slice() }
}
