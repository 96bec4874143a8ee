// Where a cut-out touches the ground in its own picture, and where its head ends: from what of it is covered.

export interface Touching {
  footAcross: number
  footDown: number
  headDown: number
  second?: { across: number; down: number }
}
/** So much of a pixel must be covered to count. */
const COVERED = 0.5
/** Of its height what is looked at for its feet, and by how much two of them must differ to be told apart. */
const FEET = 0.07
const APART = 0.008
/** What is narrower than this share of its height is no foot. */
const NARROW = 0.012

/** alpha: of each pixel, row by row. Shares of width and height from the left and top; undefined where nothing is covered. */
export function touching(alpha: ArrayLike<number>, width: number, height: number): Touching | undefined {
  const isIn = (x: number, y: number): boolean => alpha[y * width + x]! >= COVERED
  let [top, bottom] = [-1, -1]
  for (let y = 0; y < height; y++) {
    let count = 0
    for (let x = 0; x < width; x++) if (isIn(x, y)) count++
    if (!count) continue
    if (top < 0) top = y
    bottom = y + 1
  }
  if (top < 0) return undefined
  const tall = bottom - top
  /** The lowest covered row of each column that reaches down far enough. */
  const from = Math.max(top, Math.floor(bottom - tall * FEET))
  const low = Array.from({ length: width }, (_, x) => {
    for (let y = bottom - 1; y >= from; y--) if (isIn(x, y)) return y + 1
    return 0
  })
  const runs: { left: number; right: number; down: number }[] = []
  low.forEach((down, x) => {
    const last = runs.at(-1)
    if (!down) return
    if (last && last.right === x) Object.assign(last, { right: x + 1, down: Math.max(last.down, down) })
    else runs.push({ left: x, right: x + 1, down })
  })
  const feet = runs
    .filter(({ left, right }) => right - left >= Math.max(1, tall * NARROW))
    .sort((a, b) => b.right - b.left - (a.right - a.left))
    .slice(0, 2)
  const [first, other] = (feet.length ? feet : runs.slice(0, 1)).sort((a, b) => b.down - a.down)
  const middle = ({ left, right }: { left: number; right: number }): number => (left + right) / 2 / width
  const whole = { footDown: bottom / height, headDown: top / height }
  if (!other) return { footAcross: middle(first!), ...whole }
  // Of two feet as low as each other it stands between them
  if (first!.down - other.down < Math.max(2, tall * APART))
    return { footAcross: (middle(first!) + middle(other)) / 2, ...whole }
  return {
    ...{ footAcross: middle(first!), footDown: first!.down / height, headDown: whole.headDown },
    second: { across: middle(other), down: other.down / height },
  }
}
