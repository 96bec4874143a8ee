// The side that light comes from, told from balls that are lit as Lambert's law has it: brightness grows toward the
// light.
import { expect, it } from 'vitest'
import { besideInTone } from './beside'
import { lightSideOf } from './lightSide'

const [WIDTH, HEIGHT] = [240, 180]
/**
 * Matt balls on a grey ground, lit from a side of the picture (degrees, 0 the right, 90 above) and toward the camera.
 */
function balls(degrees: number): { pixels: Float32Array; mask: Uint8Array } {
  const pixels = new Float32Array(WIDTH * HEIGHT * 4)
  const mask = new Uint8Array(WIDTH * HEIGHT)
  const angle = (degrees * Math.PI) / 180
  const light = [Math.cos(angle) * 0.8, Math.sin(angle) * 0.8, 0.6] as const
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const [u, v] = [((x % 60) - 29.5) / 29, (29.5 - (y % 60)) / 29]
      const deep = 1 - u * u - v * v
      const lit = deep > 0 ? Math.max(0, u * light[0] + v * light[1] + Math.sqrt(deep) * light[2]) : 0
      const value = deep > 0 ? 0.05 + 0.6 * lit : NaN
      const i = y * WIDTH + x
      pixels.set(Number.isNaN(value) ? [0.2, 0.2, 0.2, 0] : [value, value, value, 1], i * 4)
      // One ball is looked at
      mask[i] = deep > 0 && x >= 60 && x < 120 && y >= 60 && y < 120 ? 1 : 0
    }
  return { pixels, mask }
}
const lightOf = ({ pixels, mask }: ReturnType<typeof balls>): Float32Array =>
  Float32Array.from(mask, (held, i) => (held ? pixels[i * 4 + 1]! : NaN))
const apart = (a: number, b: number): number => Math.abs(((a - b + 540) % 360) - 180)

it('is found within 8 degrees all round, and turns as the light is turned', () => {
  const window = { left: 60, top: 60, right: 120, bottom: 120 }
  for (const degrees of [0, 40, 90, 135, 180, 250, 300]) {
    const found = lightSideOf(lightOf(balls(degrees)), WIDTH, window)!
    expect(apart(found.degrees, degrees), `${degrees}: ${found.degrees}`).toBeLessThan(8)
    expect(found.agreed).toBeGreaterThan(0.4)
  }
})
it('a light turned by so much is told of by so much; the same light is silent; no side where all is lit alike', () => {
  const side = (there: number, here: number) => {
    const { mask } = balls(0)
    const pair = { plate: tilted(there), render: balls(here).pixels, mask, width: WIDTH }
    return besideInTone(pair).rows.find(({ id }) => id === 'side')!
  }
  expect(side(150, 150).sure).toBe('fits')
  const turned = side(150, 30)
  expect(['likely', 'certain']).toContain(turned.sure)
  expect(Math.abs(turned.difference - -120)).toBeLessThan(12)
  const flat = Float32Array.from({ length: WIDTH * HEIGHT }, () => 0.3)
  expect(lightSideOf(flat, WIDTH)).toBeUndefined()
})
/** A wall that brightens toward a side. */
function tilted(degrees: number): Float32Array {
  const angle = (degrees * Math.PI) / 180
  const pixels = new Float32Array(WIDTH * HEIGHT * 4)
  for (let i = 0; i < WIDTH * HEIGHT; i++) {
    const along =
      ((i % WIDTH) / WIDTH - 0.5) * Math.cos(angle) - (Math.floor(i / WIDTH) / WIDTH - 0.375) * Math.sin(angle)
    pixels.set([...[1, 1, 1].map(() => 0.2 * 2 ** (3 * along)), 1], i * 4)
  }
  return pixels
}
