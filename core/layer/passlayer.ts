// Layers that lay a pass of a render on what is behind them.
import type { Node } from '../plan/node'
import { NO_DEPTH, passOf } from '../render/passes'
import { flat, type LayerInput, type Shown } from './layer'

/** A pass as a picture, made of its channels; undefined where the render has none. */
export function passShown(
  { passes, size }: LayerInput,
  id: string,
  picture: (channels: readonly string[]) => Node,
): Shown | undefined {
  const { channels } = passOf(id)!
  return passes?.file.planes.has(channels[0]!) ? flat(picture(channels), NO_DEPTH, size) : undefined
}
