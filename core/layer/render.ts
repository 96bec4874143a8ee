import { optional } from '../declare/field'
import { within } from '../declare/values'
import { chosenBy } from '../matte/called'
import { kernelNode, type Node } from '../plan/node'
import { beyondOf, distancesOf, type PassNodes } from '../render/passnodes'
import { CLEAN_AMOUNT, lightLayer, LIGHT_PARTS, passOf, type LightPart } from '../render/passes'
import { CUT_REACH } from '../../kernels/assembly/layout'
import { CoverDepth, Desk, FrontShare, GainOfEach, Relight, SumLight } from '../../kernels/records'
import { deskGains, LIGHT_GAIN, lightGains } from './desk'
import { FAR, layerKind, share, type LayerInput } from './layer'

export const render = layerKind({
  id: 'render',
  label: 'Render',
  help: 'What was rendered, put together from its passes by the desk, each thing at its own depth.',
  sentence: 'creases darkened by occlusion {occlusion}',
  values: {
    occlusion: share('occlusion', 'How much of the occlusion pass is multiplied in.', 0),
    clean: optional(
      share(
        'noise taken out',
        '1 all that is known to be noise, 0 as rendered. A part of it left in keeps fine detail alive.',
        CLEAN_AMOUNT,
      ),
    ),
  },
  stands: 'deep',
  holds: 'passes',
  relative: true,
  plan(input, { occlusion }) {
    const { passes } = input
    if (!passes) return undefined
    const colour = made(input, passes, occlusion)
    return {
      colour: underLights(colour, input, passes),
      ...distancesOf(passes),
      beyond: beyondOf(passes, part => made(input, passes, occlusion, part), colour),
      edge: () => edgeDepth(passes),
      nearer: (than, ahead) => frontShare(than, passes, ahead),
      stacked: false,
      span: { near: 0, far: FAR },
    }
  },
})

/** As the desk puts it together; only: of one part of its light alone. */
function made(input: LayerInput, passes: PassNodes, occlusion: number, only?: LightPart): Node {
  const { clean, desk } = input
  const gains = deskGains(desk, occlusion, passes.file.objectNames, only)
  const [direct, indirect, reflection, refraction, emission, environment] = LIGHT_PARTS.map(part =>
    passes.part(part, clean),
  ) as [Node, Node, Node, Node, Node, Node]
  return kernelNode(
    Desk,
    {
      direct,
      indirect,
      reflection,
      refraction,
      emission,
      environment,
      coverage: passes.coverage('objects'),
      occlusion: passes.file.planes.has('occlusion.Y') ? passes.single('occlusion.Y') : undefined,
      gains: gains.table,
    },
    // Most of a frame is empty as a rule: nothing is done there
    { window: passes.bounds(only), told: gains.told },
  )
}

/** The render as it is when groups of light are brighter or darker than rendered. */
function underLights(source: Node, { desk, clean }: LayerInput, passes: PassNodes): Node {
  const { lights } = passes.file
  const gains = lights.map(name => within(desk.light(name), LIGHT_GAIN.low, LIGHT_GAIN.high))
  const ofEach = lights.map(name => lightGains(desk, name, passes.file.objectNames))
  if (gains.every(gain => gain === 1) && ofEach.every(each => !each)) return source
  const { window } = source
  const groups = lights.map(name => passes.light(passOf(lightLayer(name))!.channels, 0, clean))
  const sumOf = (isAfter: boolean): Node =>
    groups.reduce<Node | undefined>((sum, light, i) => {
      if (!isAfter) return kernelNode(SumLight, { sum, light, gain: 1 }, { window })
      const each = ofEach[i]
      const own = each
        ? kernelNode(
            GainOfEach,
            { source: light, coverage: passes.coverage('objects'), gains: each.table },
            { window, told: each.told },
          )
        : light
      return kernelNode(SumLight, { sum, light: own, gain: gains[i]! }, { window })
    }, undefined)!
  return kernelNode(Relight, { source, before: sumOf(false), after: sumOf(true) }, { window })
}

/**
 * How much of what covers each pixel is nearer than a distance, or than what stands there; ahead: names of things that count
 * as nearer.
 */
export function frontShare(than: number | Node, passes: PassNodes, ahead: readonly string[] = []): Node {
  const coverage = passes.coverage('objects')
  const isAhead = ahead.length > 0
  return kernelNode(
    FrontShare,
    {
      coverage,
      depth: passes.single('depth.Z'),
      ...(typeof than === 'number' ? { distance: than } : { than, distance: 0 }),
      ahead: isAhead ? chosenBy(ahead, passes.file.objectNames) : NONE,
      isAhead: Number(isAhead),
    },
    { window: coverage.window, reach: CUT_REACH },
  )
}
const NONE = Float32Array.of(0)

/** Metres of what covers a pixel most. */
export function edgeDepth(passes: PassNodes): Node {
  const coverage = passes.coverage('objects')
  return kernelNode(
    CoverDepth,
    { coverage, depth: passes.single('depth.Z') },
    { window: coverage.window, reach: CUT_REACH },
  )
}
