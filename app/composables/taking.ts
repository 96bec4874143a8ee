// Values of mattes that are taken from the picture by a click.
import { engine } from './engine'
import { useShot } from '~/stores/shot'
import { useView, type Taking } from '~/stores/view'

export function useTaking() {
  const shot = useShot()
  const view = useView()
  /** A click that gives a value of a matte: the colour of what comes to its line, or how far away it is. */
  async function take(taking: Taking, u: number, v: number, shift = false) {
    if (taking.what === 'place') {
      const { width, height } = shot.document!.frame
      view.taken = { ...taking, at: [u * width, v * height] as const, shift, value: [u, v] }
      if (view.taking === taking && !taking.again) view.taking = null
      return
    }
    // A distance stands where the picture of the station shows it: bent at the finish, straight before
    const show =
      taking.what === 'colour'
        ? ({ kind: 'comes', line: taking.line } as const)
        : ({ kind: view.station === 'finish' ? 'finish' : 'build' } as const)
    const order = { document: shot.document!, frame: shot.frame, shrink: 1 as const, show, stops: 0, channel: 0 }
    try {
      const { width, height } = shot.document!.frame
      const told = { ...taking, at: [u * width, v * height] as const, shift }
      const layer = taking.what === 'depth' ? taking.line : view.layerAtWork
      const { rgba, metres, raw } = await engine.read({ ...order, layer, ownDepth: taking.what === 'depth' }, u, v)
      const [r, g, b, a] = rgba
      if (taking.what === 'colour')
        view.taken = { ...told, value: [r, g, b].map(channel => (a > 0 ? channel / a : channel)) }
      else if (taking.what === 'depth') {
        if (raw === undefined) shot.message = 'This layer has no depth there.'
        else view.taken = { ...told, value: raw }
      } else if (metres) view.taken = { ...told, value: metres }
      else shot.message = 'Nothing is known to stand there.'
    } catch (error) {
      shot.message = (error as Error).message
    }
    // By now another may be asked for
    if (view.taking === taking && !taking.again) view.taking = null
  }
  return take
}
