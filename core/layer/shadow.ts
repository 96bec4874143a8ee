import { kernelNode, type Node } from '../plan/node'
import { MultiplyRatio, TrimRatio } from '../../kernels/records'
import { layerKind, share, type LayerInput } from './layer'
import { passShown } from './passlayer'

export const shadow = layerKind({
  id: 'shadow',
  label: 'Shadow',
  help: 'The shadow of a render on what catches it: what is behind it is multiplied by the shadow pass.',
  sentence: 'lays the shadow on what is behind it at {amount}',
  values: { amount: share('shadow', '1 as rendered, 0 none.', 1, 2) },
  stands: 'far',
  holds: 'pass',
  pass: 'shadow',
  plan: input => passShown(input, 'shadow', () => shadowRatio(input)!),
  lay: (_, source, ratio, { amount }) =>
    amount === 0 ? source : kernelNode(MultiplyRatio, { source, ratio, strength: amount }, { window: source.window }),
})

/** The shadow pass with each catcher's own density and tint; undefined where there is none. */
export function shadowRatio({ passes, clean, catcher }: LayerInput): Node | undefined {
  if (!passes?.file.planes.has('shadow.R')) return undefined
  const ratio = passes.light(['shadow.R', 'shadow.G', 'shadow.B'], 1, clean)
  const { objectNames, planes } = passes.file
  const table = new Float32Array((objectNames.length + 1) * 4)
  let changed = false
  ;['', ...objectNames].forEach((name, index) => {
    const { density, colour } = catcher(name)
    const entry = [density, ...colour]
    table.set(entry, index * 4)
    changed ||= entry[0] !== 1 || entry[1] !== 0 || entry[2] !== 0 || entry[3] !== 0
  })
  if (!changed || !planes.has('catcher_id.I')) return ratio
  return kernelNode(TrimRatio, { ratio, numbers: passes.single('catcher_id.I'), table }, { window: ratio.window })
}
