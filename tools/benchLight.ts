// Speed of the instruments of light: everything that is measured of a picture of 1280x720 at half size, as it is again and
// again while a value is dragged (30 times a second: 33 ms), against numpy's histograms of its three channels alone.
import { execFileSync } from 'node:child_process'
import { encodingOf } from '../core/colour/encoding'
import { measureLight, PLANES, type Plane } from '../core/measure/light'
import { median, type Figure } from './figures'

const [WIDTH, HEIGHT] = [640, 360]
const numpy = (): number =>
  Number(
    execFileSync('/usr/bin/python3', [
      '-c',
      `
import numpy as np, time
P = np.random.rand(${HEIGHT}, ${WIDTH}, 3).astype(np.float32)
times = []
for i in range(9):
    t = time.perf_counter()
    for c in range(3): np.histogram(P[..., c], 256, (0, 1))
    times.append(time.perf_counter() - t)
print(sorted(times)[4] * 1000)`,
    ]).toString(),
  )

export function lightFigures(wanted: (name: string) => boolean): Figure[] {
  const names = Object.keys(PLANES).map(plane => [`light.${plane}`, plane as Plane] as const)
  const asked = names.filter(([name]) => wanted(name))
  if (!asked.length) return []
  const { encode } = encodingOf('srgb')
  const pixels = Float32Array.from({ length: WIDTH * HEIGHT * 4 }, (_, i) =>
    i % 4 === 3 ? 1 : ((i * 7919) % 9973) / 9000,
  )
  const shown = Uint8ClampedArray.from(pixels, value => 255 * encode!(value))
  const reference = numpy()
  return asked.map(([name, plane]) => {
    const value = median(15, () => {
      measureLight(pixels, shown, WIDTH, plane)
    })
    return { name, value, unit: 'ms', against: 'numpy, three histograms', ratio: reference / value }
  })
}
