// Waves of standing water as sines, as its kernel reads them.
import { WAVE_FOUR } from '../../kernels/assembly/layout'
import { about, unit } from './scatter'
import type { WaterValues } from './waterValues'

/** Sines of each of both scales; four at a time. */
const OF_EACH = 16
/** How far to both sides of the wind they go, degrees; how much longer and shorter than said they are. */
const SCALES = [
  { aside: 50, range: 1.8 },
  { aside: 85, range: 2.2 },
] as const
/** m/s², and surface tension of clean water over its density, m³/s². */
const GRAVITY = 9.81
const TENSION = 7.4e-5
const { PI } = Math

interface Wave {
  /** Radians a metre along x and z. */
  kx: number
  kz: number
  /** Radians at the origin. */
  phase: number
  /** Half of its height, metres. */
  high: number
}

/** The waves after so many seconds. Deep water: w² = g k + t k³ (H. Lamb, “Hydrodynamics”, 267). */
export function wavesAt(values: WaterValues, seconds: number): Wave[] {
  const seed = Math.round(values.seed)
  const wind = (values.heading * PI) / 180
  return SCALES.flatMap(({ aside, range }, scale) => {
    const [length, steep] = scale
      ? [values.ripple_length, values.ripple_steep]
      : [values.wave_length, values.wave_steep]
    if (!(steep > 0)) return []
    return Array.from({ length: OF_EACH }, (_, i): Wave => {
      const own = i + scale * OF_EACH
      // Their lengths spread evenly by their logarithm, each within its own part
      const part = ((i + unit(seed, own, 1)) / OF_EACH) * 2 - 1
      const k = (2 * PI) / (length * range ** part)
      const angle = wind + ((aside * PI) / 180) * about(seed, own, 2)
      const turns = Math.sqrt(GRAVITY * k + TENSION * k ** 3) * values.speed
      // Of so many sines of slope a each the variance is n a² / 2
      const slope = steep * Math.sqrt(2 / OF_EACH)
      return {
        kx: Math.sin(angle) * k,
        kz: -Math.cos(angle) * k,
        // Within a turn: what is told in single precision stays exact
        phase: (2 * PI * unit(seed, own, 3) - turns * seconds) % (2 * PI),
        high: slope / k,
      }
    })
  })
}

/** As the kernel reads them, four at a time. */
export function waveTable(waves: readonly Wave[]): { waves: Float32Array; groups: number } {
  const groups = Math.ceil(waves.length / 4)
  const table = new Float32Array(Math.max(1, groups) * (WAVE_FOUR / 4))
  waves.forEach(({ kx, kz, phase, high }, i) => {
    const base = Math.floor(i / 4) * (WAVE_FOUR / 4) + (i % 4)
    ;[kx, kz, phase, high].forEach((value, k) => {
      table[base + k * 4] = value
    })
  })
  return { waves: table, groups }
}
