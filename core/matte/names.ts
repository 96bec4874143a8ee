import { matteKind } from './matte'

/** Its names, what they are of and how that is seen are more than values: core/shot/schema/matte.ts declares them. */
export const names = matteKind({
  id: 'names',
  group: 'Things',
  label: 'Names',
  help: 'What objects, materials or whole things cover, to the edge (Cryptomatte): as seen, through glass, or mirrored. A name may have * for any letters, or be # and its number.',
  sentence: '',
  values: {},
  reads: ['passes'],
  plan: ({ named, relative }) => named(relative),
})
