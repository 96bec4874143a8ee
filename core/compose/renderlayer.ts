// The render of a shot as a picture: put together from its parts by the desk, relit, inked, treated; and what else its
// passes do to what stands round it.
import { kernelNode, type Node } from '../plan/node'
import { CLEAN_AMOUNT, lightLayer, LIGHT_PARTS, passOf } from '../render/passes'
import { DESK_NEUTRAL, DESK_ROWS, type DeskColumn, type RenderLayer, type ShotDocument } from '../shot/document'
import { valueAt } from '../time/curve'
import { CUT_REACH, DESK_ROW } from '../../kernels/assembly/layout'
import {
  AddLight,
  DepthSlice,
  Desk,
  FrontShare,
  Ink,
  MultiplyRatio,
  Relight,
  SumLight,
  TrimRatio,
} from '../../kernels/records'
import type { PassNodes } from './sources'
import { within } from '../declare/values'

/** Most that a group of light is brightened by. */
const MOST_GAIN = 64
export const FAR = 1e30

export interface RenderAt {
  document: ShotDocument
  layer: RenderLayer
  frame: number
  passes: PassNodes
  /** Noise as rendered, for comparison. */
  noisy: boolean
}

/** How much of the noise is taken out of the light. */
const cleanAmount = ({ layer, frame, noisy }: RenderAt): number =>
  noisy ? 0 : within(valueAt(layer.clean ?? CLEAN_AMOUNT, frame), 0, 1)

/** The render, without the treatments of its layer. Throws StillPacked. */
export function renderNode(at: RenderAt): Node {
  const { document, layer, frame, passes } = at
  const clean = cleanAmount(at)
  const [direct, indirect, reflection, refraction, emission, environment] = LIGHT_PARTS.map(part =>
    passes.part(part, clean),
  ) as [Node, Node, Node, Node, Node, Node]
  const coverage = passes.coverage('objects')
  const desk = kernelNode(
    Desk,
    {
      direct,
      indirect,
      reflection,
      refraction,
      emission,
      environment,
      coverage,
      occlusion: passes.file.planes.has('occlusion.Y') ? passes.single('occlusion.Y') : undefined,
      gains: deskGains(document, layer, frame, passes.file.objectNames),
    },
    { window: direct.window },
  )
  return inked(underLights(desk, at, clean), layer, frame, passes)
}

/** The render as it is when groups of light are brighter or darker than rendered. */
function underLights(render: Node, { document, frame, passes }: RenderAt, clean: number): Node {
  const { lights } = passes.file
  const gains = lights.map(name => within(valueAt(document.build.desk.lights?.[name] ?? 1, frame), 0, MOST_GAIN))
  if (gains.every(gain => gain === 1)) return render
  const { window } = render
  const groups = lights.map(name => passes.light(passOf(lightLayer(name))!.channels, 0, clean))
  const sumOf = (gainOf: (i: number) => number): Node =>
    groups.reduce<Node | undefined>(
      (sum, light, i) => kernelNode(SumLight, { sum, light, gain: gainOf(i) }, { window }),
      undefined,
    )!
  return kernelNode(Relight, { source: render, before: sumOf(() => 1), after: sumOf(i => gains[i]!) }, { window })
}

/** The render with its outline taken out of it, or inked on it. */
function inked(render: Node, { ink }: RenderLayer, frame: number, passes: PassNodes): Node {
  if (!ink || !passes.file.planes.has('outline.Y')) return render
  const strength = within(valueAt(ink.strength, frame), 0, 1)
  const bite = within(valueAt(ink.bite, frame), 0, 1)
  if (strength === 0 && bite === 0) return render
  const [red, green, blue] = ink.colour.map(value => Math.max(0, valueAt(value, frame))) as [number, number, number]
  return kernelNode(
    Ink,
    { source: render, line: passes.colour(['outline.Y'], 0), colour: [red, green, blue, 1], bite, strength },
    { window: render.window },
  )
}

/** Gains of what has no object, then of each object: rows of DESK_ROW bytes. */
function deskGains(document: ShotDocument, layer: RenderLayer, frame: number, names: readonly string[]): Float32Array {
  const { everything, objects } = document.build.desk
  const read = (column: DeskColumn | undefined, row: (typeof DESK_ROWS)[number]): number =>
    valueAt(column?.[row] ?? DESK_NEUTRAL[row], frame)
  const occlusion = valueAt(layer.occlusion, frame)
  const stride = DESK_ROW / 4
  const out = new Float32Array((names.length + 1) * stride)
  ;[undefined, ...names].forEach((name, index) => {
    const own = name === undefined ? undefined : objects[name]
    DESK_ROWS.forEach((row, at) => {
      const whole = read(everything, row)
      const part = read(own, row)
      out[index * stride + at] =
        row === 'occlusion' ? occlusion * whole * part : row === 'exposure' ? 2 ** (whole + part) : whole * part
    })
  })
  return out
}

/** What is behind the render in its shadow, and with the light that its wet ground mirrors. */
export function onGround(below: Node, at: RenderAt): Node {
  const { layer, frame, passes } = at
  const { planes } = passes.file
  let picture = below
  const strength = valueAt(layer.shadow, frame)
  if (strength !== 0 && planes.has('shadow.R'))
    picture = kernelNode(
      MultiplyRatio,
      { source: picture, ratio: trimmedShadow(at), strength },
      { window: picture.window },
    )
  const wet = valueAt(layer.wet ?? 1, frame)
  if (wet !== 0 && planes.has('wet.R'))
    picture = kernelNode(
      AddLight,
      { source: picture, light: passes.colour(passOf('wet')!.channels, 0), amount: wet },
      { window: picture.window },
    )
  return picture
}

/** The shadow pass with each catcher's own density and tint. */
function trimmedShadow(at: RenderAt): Node {
  const { document, frame, passes } = at
  const ratio = passes.light(passOf('shadow')!.channels, 1, cleanAmount(at))
  const { objectNames, planes } = passes.file
  const table = new Float32Array((objectNames.length + 1) * 4)
  let changed = false
  ;['', ...objectNames].forEach((name, index) => {
    const own = document.scene.objects[name]
    const entry = [
      Math.max(0, valueAt(own?.shadowDensity ?? 1, frame)),
      ...(own?.shadowColour ?? [0, 0, 0]).map(value => Math.max(0, valueAt(value, frame))),
    ]
    table.set(entry, index * 4)
    changed ||= entry[0] !== 1 || entry[1] !== 0 || entry[2] !== 0 || entry[3] !== 0
  })
  if (!changed || !planes.has('catcher_id.I')) return ratio
  return kernelNode(TrimRatio, { ratio, numbers: passes.single('catcher_id.I'), table }, { window: ratio.window })
}

/** What the air takes of the picture, and the light that it sends. */
export function throughAir(picture: Node, { layer, frame, passes }: RenderAt): Node {
  const amount = within(valueAt(layer.air ?? 1, frame), 0, 1)
  if (amount === 0 || !passes.file.planes.has('volume.A')) return picture
  return kernelNode(
    AddLight,
    {
      source: picture,
      light: passes.colour(['volume.R', 'volume.G', 'volume.B'], 0),
      cover: passes.colour(['volume.A'], 0),
      amount,
    },
    { window: picture.window },
  )
}

/** What of the render lies between two distances in metres. */
export function sliceNode(source: Node, near: number, far: number, passes: PassNodes): Node {
  if (near <= 0 && far >= FAR) return source
  return kernelNode(
    DepthSlice,
    {
      source,
      far: far >= FAR ? undefined : frontShare(far, passes),
      near: near <= 0 ? undefined : frontShare(near, passes),
    },
    { window: source.window, reach: CUT_REACH },
  )
}

/** How much of what covers each pixel is nearer than a distance. */
function frontShare(distance: number, passes: PassNodes): Node {
  const coverage = passes.coverage('objects')
  return kernelNode(
    FrontShare,
    { coverage, depth: passes.single('depth.Z'), distance },
    { window: coverage.window, reach: CUT_REACH },
  )
}
