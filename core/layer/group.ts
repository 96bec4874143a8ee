import { layerKind } from './layer'

export const group = layerKind({
  id: 'group',
  label: 'Group',
  help: 'Layers that are made one picture first: what is in a group acts on the group alone.',
  sentence: '',
  values: {},
  stands: 'deep',
  holds: 'layers',
  relative: true,
  plan: ({ members }) => members(),
})
