// Regions of a matte: pixels that hang together, found by joining neighbours' sets (Hoshen and Kopelman 1976).

/** One value of a matte or its rest: what a region is made of. */
export interface RegionsOf {
  /** Whether a pixel of such a value belongs to one. */
  within: (value: number) => boolean
  /** Whether pixels hang together by their corners too. */
  corners: boolean
}

/**
 * Marks of the pixels in regions of at most so many pixels. border: those that touch the edge of the picture count as
 * well. One byte a pixel.
 */
export function smallRegions(
  values: Float32Array,
  width: number,
  { within, corners }: RegionsOf,
  most: number,
  border: boolean,
): Uint8Array {
  const height = values.length / width
  const root = new Int32Array(values.length).fill(-1)
  const find = (index: number): number => {
    while (root[index] !== index) {
      root[index] = root[root[index]!]!
      index = root[index]!
    }
    return index
  }
  const join = (a: number, b: number): void => {
    const [x, y] = [find(a), find(b)]
    if (x < y) root[y] = x
    else root[x] = y
  }
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      if (!within(values[i]!)) continue
      root[i] = i
      if (x > 0 && root[i - 1]! >= 0) join(i, i - 1)
      if (y === 0) continue
      if (root[i - width]! >= 0) join(i, i - width)
      if (!corners) continue
      if (x > 0 && root[i - width - 1]! >= 0) join(i, i - width - 1)
      if (x < width - 1 && root[i - width + 1]! >= 0) join(i, i - width + 1)
    }
  const count = new Int32Array(values.length)
  for (let i = 0; i < values.length; i++) {
    if (root[i]! < 0) continue
    const own = find(i)
    const [x, y] = [i % width, Math.floor(i / width)]
    // One that touches the edge goes on beyond it
    count[own]! += !border && (x === 0 || y === 0 || x === width - 1 || y === height - 1) ? values.length + 1 : 1
    if (count[own]! > values.length) count[own] = values.length + 1
  }
  const marks = new Uint8Array(values.length)
  for (let i = 0; i < values.length; i++) if (root[i]! >= 0 && count[find(i)]! <= most) marks[i] = 1
  return marks
}
