// What of a render mirrors: a material (or a thing, where materials are not known) that mirrors something anywhere is
// smooth, and shows the sky where it mirrors nothing.
import { NO_DEPTH } from './passes'
import { coverageOf, type PassFile } from './openpasses'

/** Of a pixel that shows several, which of them mirrors is not known. */
const ALONE = 0.98

const known = new WeakMap<PassFile, (pixel: number) => boolean>()
/** Whether what covers most of a pixel of the file mirrors things that can be told apart. Throws StillPacked. */
export function mirroringOf(file: PassFile): (pixel: number) => boolean {
  let said = known.get(file)
  if (!said) known.set(file, (said = looked(file)))
  return said
}

function looked(file: PassFile): (pixel: number) => boolean {
  const id = ['crypto_material', 'crypto_object'].find(name => file.coverage.has(name))
  const coverage = id && coverageOf(file, id === 'crypto_material' ? 'materials' : 'objects')
  const depth = file.planes.stored('mirrored_depth.Z')
  if (!coverage || !depth) return () => false
  const { index, weight, ranks } = coverage
  const { data, values } = depth
  const nameOf = (pixel: number): number => (weight[pixel * ranks]! > 0 ? index[pixel * ranks]! : 0)
  const mirrors = new Set<number>()
  for (let pixel = 0; pixel < file.width * file.height; pixel++)
    if (weight[pixel * ranks]! >= ALONE && (values ? values[data[pixel]!]! : data[pixel]!) < NO_DEPTH / 2)
      mirrors.add(nameOf(pixel))
  mirrors.delete(0)
  return pixel => mirrors.has(nameOf(pixel))
}
