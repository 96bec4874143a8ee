// The pixel filter as a table to draw offsets from.

/** Offsets in pixels such that even steps along the table follow the filter (inverse cumulative, 257 entries). */
export function filterTable(radius: number): Float32Array {
  const steps = 4096
  const cumulative = new Float64Array(steps + 1)
  for (let i = 0; i < steps; i++) {
    const t = (i + 0.5) / steps
    // Blackman-Harris window (F. J. Harris 1978, minimum 4-term)
    cumulative[i + 1] =
      cumulative[i]! +
      0.35875 -
      0.48829 * Math.cos(2 * Math.PI * t) +
      0.14128 * Math.cos(4 * Math.PI * t) -
      0.01168 * Math.cos(6 * Math.PI * t)
  }
  const out = new Float32Array(257)
  let at = 0
  for (let i = 0; i <= 256; i++) {
    const target = (cumulative[steps]! * i) / 256
    while (at < steps - 1 && cumulative[at + 1]! < target) at++
    const part = (target - cumulative[at]!) / Math.max(1e-12, cumulative[at + 1]! - cumulative[at]!)
    out[i] = (((at + Math.min(1, part)) / steps) * 2 - 1) * radius
  }
  return out
}
