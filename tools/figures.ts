// What every figure is, and medians of pieces of work.
export interface Figure {
  name: string
  value: number
  unit: string
  against: string
  ratio: number
}

export const middle = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!

/** Milliseconds, the middle of so many rounds. */
export function median(rounds: number, work: () => void): number {
  return middle(
    Array.from({ length: rounds }, () => {
      const start = performance.now()
      work()
      return performance.now() - start
    }),
  )
}

/**
 * Medians of pieces of work done in turn, so that a slow spell of the machine meets them all. The first round warms up
 * and does not count.
 */
export function medians<const Work extends readonly (() => void)[]>(
  rounds: number,
  ...works: Work
): { [Index in keyof Work]: number } {
  const times = works.map((): number[] => [])
  for (let i = 0; i <= rounds; i++)
    works.forEach((work, at) => {
      const took = median(1, work)
      if (i > 0) times[at]!.push(took)
    })
  return times.map(middle) as { [Index in keyof Work]: number }
}

/** Of work that one waits for. The first round warms up and does not count. */
export async function medianLater(rounds: number, work: () => Promise<unknown>): Promise<number> {
  const times: number[] = []
  for (let i = 0; i <= rounds; i++) {
    const start = performance.now()
    await work()
    if (i > 0) times.push(performance.now() - start)
  }
  return middle(times)
}
