// How what a render shows is spread over distance, all of it and thing by thing: two balls whose distances are known.
import { expect, it } from 'vitest'
import { depthSpread, thingsSeen } from '../core/compose/sounded'
import { openPassFile, unpacking } from '../core/render/openpasses'
import { document, FARTHER, files, NEAR, WIDTH } from './buildShot'

const [BINS, FROM, TO] = [200, 1, 100]
const binOf = (metres: number): number => Math.floor((Math.log(metres / FROM) / Math.log(TO / FROM)) * BINS)

it('a thing is where it stands, and nothing of the others is counted with it', async () => {
  const file = await openPassFile(files.get(document.passes.file!.blob)!)
  const of = (...names: string[]): Promise<Float32Array> => unpacking(() => depthSpread(file, BINS, FROM, TO, names))
  const [all, near, far, both] = [await of(), await of('near'), await of('far'), await of('near', 'far')]
  const sum = (spread: Float32Array): number => spread.reduce((total, value) => total + value, 0)
  // Balls of radius 0.7 about 4 m and 0.8 about 8 m away: what is seen of them is their nearer half
  for (const [spread, from, to] of [
    [near, 3.2, 4.1],
    [far, 7.1, 8.1],
  ] as const) {
    expect(sum(spread)).toBeGreaterThan(0.005)
    spread.forEach((value, bin) => {
      if (value > 0) expect([bin >= binOf(from), bin <= binOf(to)]).toEqual([true, true])
    })
  }
  expect(sum(both)).toBeCloseTo(sum(near) + sum(far), 6)
  // By what of a pixel is covered, where those count by what covers most
  expect(sum(all)).toBeGreaterThan(sum(both) * 0.9)
  expect(sum(await of('nobody'))).toBe(0)
  const seen = await unpacking(() => thingsSeen(file))
  expect(seen.near!.metres).toBeGreaterThan(3.2)
  expect(seen.near!.metres).toBeLessThan(3.9)
  expect(seen.far!.metres).toBeGreaterThan(7.1)
  expect(seen.far!.metres).toBeLessThan(7.9)
  // Where the pinhole of the test sees their middles
  for (const [name, pixel] of [
    ['near', NEAR()],
    ['far', FARTHER()],
  ] as const)
    expect(Math.abs(seen[name]!.across - ((pixel % WIDTH) + 0.5) / WIDTH)).toBeLessThan(0.03)
})
