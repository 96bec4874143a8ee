// Light added to a picture, each channel by its own weight.
import { around, holds, type Box } from '../engine/box'
import { point } from '../formula/point'
import { kernelNode, type Node } from '../plan/node'
import { pointNode, whole } from '../plan/pointNode'
import { raster, shade } from '../../kernels/record'
import { Clear, Shift } from '../../kernels/records'

export type Weight = readonly [number, number, number]
const Added = point('Added', { light: raster('colour'), weight: shade }, ({ colour, colours, values }) =>
  colour.map((channel, which) => channel.plus(colours.light.colour[which].times(values.weight[which]))),
)

/** A picture with nothing round it. */
export const inWindow = (source: Node, window: Box): Node =>
  holds(source.window, window) ? source : kernelNode(Shift, { source, dx: 0, dy: 0 }, { window, needs: area => area })

/** A picture and light added to it; its coverage stays. Beyond it there is nothing but the light. */
export function withLight(colour: Node, lights: readonly (readonly [light: Node, weight: Weight])[]): Node {
  const window = lights.reduce((box, [light]) => around(box, light.window), colour.window)
  return lights.reduce<Node>(
    (sum, [light, weight]) => pointNode(Added, whole(sum), { light, weight }),
    inWindow(colour, window),
  )
}
/** Lights joined. */
export const joined = (lights: readonly (readonly [light: Node, weight: Weight])[], window: Box): Node =>
  withLight(kernelNode(Clear, {}, { window }), lights)
