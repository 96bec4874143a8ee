import { NO_DEPTH } from '../render/passes'
import { flat, layerKind } from './layer'

export const plate = layerKind({
  id: 'plate',
  label: 'Plate',
  help: 'The photograph or footage of the shot, or another picture in its place, over the whole frame.',
  sentence: '',
  values: {},
  stands: 'far',
  holds: 'plate',
  plan: ({ plate, size }) => flat(plate(), NO_DEPTH, size),
})
