// The grade of the desk and of the treatment Desk grade, against OpenColorIO 2.1 (Debian) and chromaticities of the CIE's
// illuminants (CIE 15:2004, tables T.3; values from memory).
import { describe, expect, it } from 'vitest'
import { REC709, apply3, rgbToXyz } from '../../core/colour/matrix'
import { Kernels } from '../../core/engine/memory'
import { Pool } from '../../core/engine/pool'
import { gradeGain } from '../../core/treatment/deskGrade'
import { kernelModule } from '../../host/engine'
import { randomFrom } from '../compose/random'
import { treat } from '../compose/treat'
import { pythonOf } from '../python'

const pool = new Pool(new Kernels(kernelModule()))
const random = randomFrom(77)
const COLOURS = Array.from({ length: 120 }, () => [random() ** 2 * 4, random() ** 2 * 4, random() ** 2 * 4])
const NEUTRAL = { exposure: 0, contrast: 1, warmth: 0, tint: 0, saturation: 1 }
const graded = async (values: Partial<typeof NEUTRAL>): Promise<number[][]> => {
  const out = await treat(
    pool,
    'desk_grade',
    { ...NEUTRAL, ...values },
    COLOURS.length,
    1,
    COLOURS.flatMap(colour => [...colour, 1]),
  )
  return COLOURS.map((_, i) => [...out.subarray(i * 4, i * 4 + 3)])
}

describe('Desk grade', () => {
  it.each([
    { exposure: 1.5, contrast: 1.4, saturation: 1 },
    { exposure: -0.7, contrast: 0.6, saturation: 1.8 },
    { exposure: 0, contrast: 1, saturation: 0 },
  ])('%o is OpenColorIO’s exposure, contrast about 0.18 and CDL saturation', async values => {
    const { applied } = pythonOf<{ applied: number[][] }>(
      `
import json, sys, PyOpenColorIO as O
asked = json.load(sys.stdin)
# Of a linear picture: (rgb * 2^exposure / pivot)^contrast * pivot
first = O.ExposureContrastTransform(style=O.EXPOSURE_CONTRAST_LINEAR, exposure=asked['exposure'], contrast=asked['contrast'], pivot=0.18)
then = O.CDLTransform(); then.setStyle(O.CDL_NO_CLAMP); then.setSat(asked['saturation'])
p = O.Config.CreateRaw().getProcessor(O.GroupTransform([first, then])).getDefaultCPUProcessor()
print(json.dumps({'applied': [p.applyRGB(c) for c in asked['colours']]}))`,
      { ...values, colours: COLOURS },
    )
    const found = await graded(values)
    applied.forEach((colour, i) =>
      colour.forEach((channel, c) =>
        expect(Math.abs(found[i]![c]! - channel), `${COLOURS[i]!.join()}, channel ${c}`).toBeLessThan(
          2e-5 * Math.max(1, Math.abs(channel)),
        ),
      ),
    )
  })
})

describe('warmth', () => {
  const chromaticity = (gain: readonly number[]): [number, number] => {
    const [x, y, z] = apply3(rgbToXyz(REC709), gain[0]!, gain[1]!, gain[2]!)
    return [x / (x + y + z), y / (x + y + z)]
  }
  const mireds = (kelvin: number): number => 1e6 / kelvin - 1e6 / 6504
  it.each([
    ['D50', 5003, 0.34567, 0.3585],
    ['D55', 5503, 0.33242, 0.34743],
    ['D75', 7504, 0.29902, 0.31485],
    ['A', 2856, 0.44757, 0.40745],
  ])('white under so many mireds is %s', (_, kelvin, x, y) => {
    const found = chromaticity(gradeGain(0, mireds(kelvin), 0))
    expect(Math.abs(found[0] - x)).toBeLessThan(0.002)
    expect(Math.abs(found[1] - y)).toBeLessThan(0.002)
  })
  it('keeps the luminance of white, and a stop doubles it', () => {
    for (const [warmth, tint] of [
      [120, 0],
      [-60, 20],
      [30, -40],
    ] as const) {
      const [r, g, b] = gradeGain(1, warmth, tint)
      expect(0.2126 * r + 0.7152 * g + 0.0722 * b).toBeCloseTo(2, 2)
    }
    expect(gradeGain(0, 0, 0)).toEqual([1, 1, 1])
  })
  it('warmer is redder, and above no tint greener', () => {
    const [r, , b] = gradeGain(0, 50, 0)
    expect(r).toBeGreaterThan(1.05)
    expect(b).toBeLessThan(0.95)
    const [red, green, blue] = gradeGain(0, 0, 20)
    expect(green).toBeGreaterThan(Math.max(red, blue))
  })
})
