// Numbers that wander, for values that drift and flicker.

/**
 * Smooth noise in -1..1: even random values at whole numbers, eased between (value noise, quintic ease of K. Perlin
 * 2002).
 */
export function wander(at: number, seed: number): number {
  const cell = Math.floor(at)
  const t = at - cell
  const ease = t * t * t * (t * (t * 6 - 15) + 10)
  const a = lattice(cell, seed)
  const b = lattice(cell + 1, seed)
  return a + (b - a) * ease
}
function lattice(cell: number, seed: number): number {
  // Finalizer of MurmurHash3 over both numbers
  let h = Math.imul(cell | 0, 0x9e3779b1) ^ Math.imul(seed | 0, 0x85ebca77)
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b)
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35)
  return ((h ^ (h >>> 16)) >>> 0) / 2147483648 - 1
}
