import { operatorKey } from '../engine/key'
import { kernelNode, type Node } from '../plan/node'
import { boxOfSize, fullSize } from '../plan/size'
import { NO_DEPTH } from '../render/passes'
import type { Camera, Light } from '../scene/scene'
import type { Surroundings } from '../scene/surroundings'
import { ShareOf, SpeckDepth, Specks, SpeckShare } from '../../kernels/records'
import { irradianceOf, skyPlaces } from './castLights'
import { layerKind, type LayerInput } from './layer'
import { arriving } from './lightThere'
import { specksHandles } from './specksHandles'
import { specksSeen, type LightAt, type SeenSpecks } from './specksSeen'
import { SPECKS_VALUES, type SpecksValues } from './specksValues'

/** What covers nothing stands nowhere: even a spark hides so much. */
const LEAST_COVER = 1 / 1024

export const specks = layerKind({
  id: 'specks',
  label: 'Specks',
  help: 'Rain, snow, dust, flecks or sparks in the air before the camera, each at its own distance.',
  sentence: [
    '{density} in each cubic metre, {there} of them there, from {near} to {far} away, {where}[ about {x} {y} {z}, {wide} wide, {tall} tall, {deep} deep], over ground at {floor}',
    '{size} large, {sizes} larger or smaller, {long} times as long, soft by {soft}, of {colour} to {other}, hiding {hides}, lit {lit}, glittering {glitter}',
    'falling {fall}, in wind of {wind} to {heading}, faster or slower by {speeds}, swaying {sway} in {sway_seconds}, turning {turning}',
    'shutter {shutter}, blurred {blurred}[, sharp at {sharp_at}, at f/{stop}], seed {seed}',
  ].join('\n'),
  values: SPECKS_VALUES,
  metres: ['near', 'far'],
  stands: 'deep',
  holds: 'lit',
  handles: specksHandles,
  plan(input, values) {
    const { size } = input
    if (!(values.far > values.near) || values.there <= 0) return undefined
    const { told, seen } = specksOf(input, values)
    if (!seen.count) return undefined
    const window = boxOfSize(size)
    const covers = Math.max(LEAST_COVER, values.hides)
    const { specks: table, rows, order } = seen
    const given = { specks: table, rows, order }
    const depth = (): Node => kernelNode(SpeckDepth, { ...given, nothing: NO_DEPTH }, { window, told })
    return {
      colour: kernelNode(Specks, { ...given, covers }, { window, told }),
      depth,
      byDepth: say => say(depth()),
      edge: depth,
      nearer: than => {
        const limit = typeof than === 'number' ? { distance: than } : { than, distance: 0 }
        const shares = kernelNode(SpeckShare, { ...given, ...limit, covers }, { window, told })
        return kernelNode(ShareOf, { source: shares, which: 3 }, { window })
      },
      stacked: true,
      thick: true,
      span: { near: values.near, far: values.far },
    }
  },
})

/** Those that were last worked out, by what they depend on: other layers change more often than they do. */
const known = new Map<string, SeenSpecks>()
const KEPT = 6

function specksOf(input: LayerInput, values: SpecksValues): { told: string; seen: SeenSpecks } {
  const { frame, rate, size } = input
  const half = values.shutter / 2
  const [opens, middle, closes] = [frame - half, frame, frame + half].map(at => input.camera(at)) as [
    Camera,
    Camera,
    Camera,
  ]
  const shot = {
    ...{ opens, middle, closes, seconds: [frame / rate, values.shutter / rate] as const, shrink: size.shrink },
    ...fullSize(size),
  }
  const { light } = input
  const isOne = light !== undefined
  const lights = values.lit > 0 ? input.lights().filter(({ name }) => !isOne || name === light) : []
  const sky = values.lit > 0 && !isOne ? input.surroundings() : undefined
  const told = operatorKey(values, shot, isOne, lights, sky?.turn, sky?.gain, sky?.light)
  const before = known.get(told)
  if (before) return { told, seen: before }
  const seen = specksSeen(values, shot, lightBy(values.lit, lights, sky, isOne))
  if (known.size >= KEPT) known.delete(known.keys().next().value!)
  known.set(told, seen)
  return { told, seen }
}

/**
 * Of something white that faces all of it: irradiance over pi. A scene without any light says nothing of it; a light that is gone
 * gives none.
 */
function lightBy(lit: number, lights: readonly Light[], sky: Surroundings | undefined, isOne: boolean): LightAt {
  if (!lights.length && !sky && !isOne) return (_, __, ___, light) => light.fill(1)
  const all = lights.map(light => arriving(light))
  const around = sky ? irradianceOf(skyPlaces(sky), [0, 0, 0]) : [0, 0, 0]
  return (x, y, z, light) => {
    for (let i = 0; i < 3; i++) light[i] = around[i]!
    for (const arrives of all) arrives(x, y, z, light)
    for (let i = 0; i < 3; i++) light[i] = 1 - lit + (light[i]! * lit) / Math.PI
  }
}
