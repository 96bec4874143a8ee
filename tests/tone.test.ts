// Colours as lightness, strength and hue, against culori (npm).
import { converter } from 'culori'
import { expect, it } from 'vitest'
import { displayByte } from '../core/colour/encoding'
import { colourOfTone, toneOf } from '../core/colour/oklab'
import { randomFrom } from './compose/random'

const oklch = converter('oklch')
const rgb = converter('rgb')
const random = randomFrom(4)
const COLOURS = Array.from({ length: 80 }, () => [random() * 3, random() * 2, random()] as [number, number, number])

it('are those of OKLCh, the strength for each lightness', () => {
  for (const [r, g, b] of COLOURS) {
    const { l, c, h } = oklch({ mode: 'lrgb', r, g, b })
    const { lightness, strength, hue } = toneOf([r, g, b])
    expect(lightness).toBeCloseTo(l, 5)
    expect(strength).toBeCloseTo(c / l, 5)
    expect(Math.abs(((hue - h! + 540) % 360) - 180)).toBeLessThan(0.01)
  }
})
it('come back as they were, and keep hue and strength where there is more of the same light', () => {
  for (const colour of COLOURS) {
    for (const [i, value] of colourOfTone(toneOf(colour)).entries()) expect(value).toBeCloseTo(colour[i]!, 6)
    const brighter = toneOf(colour.map(value => value * 7) as typeof colour)
    expect(brighter.strength).toBeCloseTo(toneOf(colour).strength, 6)
    expect(Math.abs(((brighter.hue - toneOf(colour).hue + 540) % 360) - 180)).toBeLessThan(1e-3)
    expect(brighter.lightness).toBeCloseTo(toneOf(colour).lightness * Math.cbrt(7), 6)
  }
})
it('of greys and black there is no hue, and none of them is no number', () => {
  for (const grey of [0, 0.18, 1, 40]) {
    const { lightness, strength, hue } = toneOf([grey, grey, grey])
    expect([strength < 1e-5, hue]).toEqual([true, 0])
    expect(lightness).toBeCloseTo(Math.cbrt(grey), 6)
  }
})
it('codes for a display are culori’s of sRGB, held to it', () => {
  for (const value of [0, 0.001, 0.0031308, 0.02, 0.18, 0.5, 1]) {
    const { r } = rgb({ mode: 'lrgb', r: value, g: 0, b: 0 })
    expect(displayByte(value)).toBe(Math.round(r * 255))
  }
  expect([displayByte(-1), displayByte(9)]).toEqual([0, 255])
})
