// The direction of shadows: where the sun stands that a shadow of the plate was thrown by, against the sun of the scene. A
// pole and the tip of its shadow are put into the world by trigonometry, and seen through the camera.
import { describe, expect, it } from 'vitest'
import { project } from '../match/project'
import { sunFromShadow } from '../match/sun'
import { newDocument, type ShotDocument } from './document'
import { sunNote, sunOfShot } from './fitSun'
import { addRow } from './rows'
import { sightOf } from './scene'

const sun = (id: string, azimuth: number, elevation: number, stops: number, on = true) => ({
  ...{ id, name: `sun ${id}`, kind: 'sun' as const, on, azimuth, elevation, stops },
  ...{ kelvin: 5600, diameter: 0.5, width: 1, height: 1, distance: 1, target: [0, 0, 0] as [number, number, number] },
})
const shot = (...suns: ReturnType<typeof sun>[]): ShotDocument => {
  const document = newDocument(1600, 900)
  for (const one of suns) addRow(document.scene.lights, one)
  return document
}
/** What three clicks on a pole of 2 m say whose shadow the sun throws. */
function readIn(document: ShotDocument, azimuth: number, elevation: number) {
  const camera = sightOf(document, 1).camera()
  const radians = Math.PI / 180
  const long = 2 / Math.tan(elevation * radians)
  // Away from where the sun stands: azimuth 0 is -Z, 90 is +X
  const tip = [-long * Math.sin(azimuth * radians), 0, -9 + long * Math.cos(azimuth * radians)] as const
  const at = (place: readonly [number, number, number]) => project(camera, 16 / 9, [...place])
  return sunFromShadow(camera, 16 / 9, at([0, 0, -9]), at([0, 2, -9]), at(tip))
}

describe('the direction of shadows', () => {
  it('is not known until a shadow is read, and is asked of nothing that has no sun', () => {
    expect(sunNote(shot(), 1, null, { azimuth: 0, elevation: 40 })).toBeUndefined()
    expect(sunNote(shot(sun('a', 0, 40, 2)), 1, null, null)).toMatchObject({ id: 'sun', sure: 'unknown' })
  })
  it.each([
    [60, 35, 60, 35, 'fits', ''],
    [60, 35, 62, 36, 'fits', ''],
    [60, 35, 60, 41, 'likely', '6.0° too high'],
    [60, 35, 95, 35, 'certain', '35.0° too far to the right'],
    [-170, 35, 175, 30, 'certain', '15.0° too far to the left, 5.0° too low'],
  ] as const)(
    'of a plate lit from %d, %d high, with a sun at %d, %d: %s',
    (azimuth, elevation, own, high, sure, words) => {
      const document = shot(sun('a', own, high, 2))
      const read = readIn(document, azimuth, elevation)
      const note = sunNote(document, 1, null, read)!
      expect(note.sure).toBe(sure)
      expect(note.words).toContain(words)
      if (sure === 'fits') return expect(note.mend).toBeUndefined()
      note.mend!.change(document)
      const after = sunNote(document, 1, null, read)!
      expect([after.sure, document.scene.lights.a!.elevation]).toEqual(['fits', elevation])
    },
  )
  it('is that of the brightest sun that is on, by its keys', () => {
    const document = shot(sun('a', 10, 20, 0), sun('b', 50, 30, 3), sun('c', 90, 60, 6, false))
    expect(sunOfShot(document, 1, { azimuth: 0, elevation: 5 })!.name).toBe('sun b')
    const keys = [1, 21].map(frame => ({ frame, value: 40 + frame, shape: 'even' as const }))
    document.scene.lights.b!.azimuth = { keys } as never
    expect(sunOfShot(document, 11, null)!.azimuth).toBeCloseTo(51, 1)
    sunNote(document, 11, null, { azimuth: 80, elevation: 30 })!.mend!.change(document)
    // A key at this frame, the others stay
    expect(sunOfShot(document, 11, null)!.azimuth).toBeCloseTo(80, 2)
    expect(sunOfShot(document, 1, null)!.azimuth).toBeCloseTo(41, 2)
  })
  it('or that in the environment, which is turned until it stands there', () => {
    const document = shot()
    document.scene.environment = {
      turn: 20,
      stops: 0,
      seen: false,
      blob: 'x',
      name: 'sky',
      encoding: 'linear',
    } as never
    const found = { azimuth: 170, elevation: 35 }
    expect(sunOfShot(document, 1, found)).toMatchObject({ azimuth: -170, elevation: 35 })
    const read = { azimuth: 100, elevation: 36 }
    sunNote(document, 1, found, read)!.mend!.change(document)
    expect((document.scene.environment as { turn?: number } | null)?.turn).toBe(-70)
    expect(sunNote(document, 1, found, read)!.sure).toBe('fits')
  })
})
