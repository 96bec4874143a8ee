// Nonlinear least squares: Levenberg (1944) and Marquardt (1963), damping after H. B. Nielsen (1999), derivatives by
// central differences.
import { Matrix, solve } from 'ml-matrix'

export interface LeastSquares {
  values: number[]
  /** Sum of squares. */
  error: number
  steps: number
}

/**
 * Values that make the residuals small, starting from `start`. Steps of the differences are relative to `scales` (about
 * how far each value may move).
 */
export function leastSquares(
  start: readonly number[],
  residuals: (values: readonly number[]) => number[],
  scales: readonly number[],
  most = 60,
): LeastSquares {
  const count = start.length
  const sumOf = (list: readonly number[]): number => {
    let sum = 0
    for (const value of list) sum += value * value
    return Number.isFinite(sum) ? sum : Infinity
  }
  let values = [...start]
  let now = residuals(values)
  let error = sumOf(now)
  let damping = -1
  let growth = 2
  let steps = 0
  while (steps++ < most && error > 1e-24) {
    const columns = values.map((value, k) => {
      const h = scales[k]! * 1e-5
      const up = [...values]
      const down = [...values]
      up[k] = value + h
      down[k] = value - h
      const a = residuals(up)
      const b = residuals(down)
      return a.map((entry, i) => ((entry - b[i]!) / (2 * h)) * scales[k]!)
    })
    const normal = new Matrix(count, count)
    const gradient: number[] = []
    for (let a = 0; a < count; a++) {
      let g = 0
      for (let i = 0; i < now.length; i++) g += columns[a]![i]! * now[i]!
      gradient.push(g)
      for (let b = a; b < count; b++) {
        let sum = 0
        for (let i = 0; i < now.length; i++) sum += columns[a]![i]! * columns[b]![i]!
        normal.set(a, b, sum)
        normal.set(b, a, sum)
      }
    }
    if (Math.max(...gradient.map(Math.abs)) < 1e-14) break
    if (damping < 0) damping = 1e-3 * Math.max(1e-12, ...normal.diagonal())
    let moved = false
    for (let attempt = 0; attempt < 12 && !moved; attempt++) {
      const damped = normal.clone()
      for (let k = 0; k < count; k++) damped.set(k, k, normal.get(k, k) + damping)
      let step: number[]
      try {
        step = solve(damped, Matrix.columnVector(gradient.map(g => -g))).to1DArray()
      } catch {
        damping *= growth
        growth *= 2
        continue
      }
      const next = values.map((value, k) => value + step[k]! * scales[k]!)
      const list = residuals(next)
      const after = sumOf(list)
      if (after < error) {
        let predicted = 0
        for (let k = 0; k < count; k++) predicted += step[k]! * (damping * step[k]! - gradient[k]!)
        const gain = (error - after) / Math.max(1e-300, predicted)
        const small = error - after < 1e-13 * error
        values = next
        now = list
        error = after
        moved = true
        damping *= Math.max(1 / 3, 1 - (2 * gain - 1) ** 3)
        growth = 2
        if (small) return { values, error, steps }
      } else {
        damping *= growth
        growth *= 2
      }
    }
    if (!moved) break
  }
  return { values, error, steps }
}
