import { describe, expect, it } from 'vitest'
import { groundGrid, onLevel, project, rayThrough } from '../match/project'
import { lightAt, skyDirection } from '../shot/lamps'
import { cameraAt, settingsOfCamera } from '../shot/scene'
import { DEFAULT_CAMERA } from '../shot/document'
import { degreesFromRotation, multiply, rotationFromDegrees, transformDirection } from './vector'

it('angles come back from the turns they make', () => {
  for (const [heading, tilt, bank] of [
    [30, -12, 4],
    [-170, 60, -30],
    [0, 0, 0],
  ] as const) {
    const back = degreesFromRotation(rotationFromDegrees(heading, tilt, bank))
    expect([back.heading, back.tilt, back.bank].map(value => Math.round(value * 1e6) / 1e6 + 0)).toEqual([
      heading,
      tilt,
      bank,
    ])
  }
  expect(multiply(rotationFromDegrees(90, 0, 0), rotationFromDegrees(-90, 0, 0))[0]).toBeCloseTo(1, 12)
})

describe('camera', () => {
  const camera = cameraAt({ ...DEFAULT_CAMERA, y: 1.6, pitch: -5, bank: 1, heading: 20 }, 1)
  it('projection and rays are each other’s reverse', () => {
    const ground = onLevel(camera, 1.5, 0.3, 0.8, 0)!
    const seen = project(camera, 1.5, ground)
    expect([seen.u, seen.v]).toEqual([expect.closeTo(0.3, 9), expect.closeTo(0.8, 9)])
    expect(Math.hypot(...rayThrough(camera, 1.5, 0.1, 0.9))).toBeCloseTo(1, 12)
    expect(onLevel(camera, 1.5, 0.5, 0.05, 0)).toBeUndefined()
  })
  it('35 mm on 36 mm sees 54.4 degrees across (2 atan(18 / 35))', () => {
    const left = rayThrough(cameraAt(DEFAULT_CAMERA, 1), 1.5, 0, 0.5)
    const right = rayThrough(cameraAt(DEFAULT_CAMERA, 1), 1.5, 1, 0.5)
    expect((Math.acos(left[0] * right[0] + left[1] * right[1] + left[2] * right[2]) * 180) / Math.PI).toBeCloseTo(
      (2 * Math.atan(18 / 35) * 180) / Math.PI,
      9,
    )
  })
  it('settings say what the matrix says', () => {
    const back = settingsOfCamera(camera)
    expect([back.pitch, back.bank, back.heading, back.y]).toEqual([-5, 1, 20, 1.6])
  })
  it('the grid never runs behind the camera', () => {
    for (const { line } of groundGrid(camera, 1.5).lines)
      for (const value of line) expect(Number.isFinite(value)).toBe(true)
  })
})

describe('lights', () => {
  const base = {
    id: 'a',
    name: 'sun',
    on: true,
    azimuth: 90,
    elevation: 30,
    kelvin: 5600,
    stops: 2,
    diameter: 0.53,
    width: 0.6,
    height: 0.3,
    distance: 2,
    target: [0, 1, -5] as [number, number, number],
  }
  it('come from where they are said to', () => {
    expect(skyDirection(90, 30)).toEqual([
      expect.closeTo(Math.cos(Math.PI / 6), 12),
      expect.closeTo(0.5, 12),
      expect.closeTo(0, 12),
    ])
    const sun = lightAt({ ...base, kind: 'sun' }, 1)
    if (sun.kind !== 'sun') throw new Error('not a sun')
    expect(sun.direction[1]).toBeCloseTo(-0.5, 12)
    // Two stops over 1 W/m2 of luminance
    expect(sun.irradiance[0] * 0.2126 + sun.irradiance[1] * 0.7152 + sun.irradiance[2] * 0.0722).toBeCloseTo(4, 6)
  })
  it('a soft box has its size and faces its target', () => {
    const box = lightAt({ ...base, kind: 'box' }, 1)
    if (box.kind !== 'box') throw new Error('not a box')
    expect([Math.hypot(...box.halfU), Math.hypot(...box.halfV)]).toEqual([
      expect.closeTo(0.3, 9),
      expect.closeTo(0.15, 9),
    ])
    expect(Math.hypot(box.centre[0], box.centre[1] - 1, box.centre[2] + 5)).toBeCloseTo(2, 9)
    expect(transformDirection(rotationFromDegrees(0, 0, 0), box.normal)[0]).toBeLessThan(0)
  })
})
