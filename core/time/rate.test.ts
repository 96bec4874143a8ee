import { describe, expect, it } from 'vitest'
import { driftAfter, frameOfTimecode, parseRate, rateOf, rateText, sameRate, timecode } from './rate'

const NTSC = rateOf(30000, 1001)
const FILM = rateOf(24000, 1001)

describe('rates', () => {
  it('are exact ratios in lowest terms, however they are said', () => {
    expect(
      ['25', '24000/1001', '23.976', '23.98', '29.97', '59.94', '50/2', '12.5', '47.952', '119.88'].map(text =>
        rateText(parseRate(text)),
      ),
    ).toEqual([
      '25',
      '24000/1001',
      '24000/1001',
      '24000/1001',
      '30000/1001',
      '60000/1001',
      '25',
      '25/2',
      '48000/1001',
      '120000/1001',
    ])
    expect(sameRate(rateOf(48000, 2002), FILM)).toBe(true)
  })
  it('that are none are refused', () => {
    for (const text of ['', '0', '-24', '24/0', 'film', '1e9', '0/1'])
      expect(() => parseRate(text), text).toThrow(/no frame rate/)
  })
  it('of 24 for 24000/1001 are one frame ahead after 1001 (common practice, no source; it is 24000 x 1001/24000 - 1000)', () => {
    expect(driftAfter(1001, FILM, rateOf(24))).toBeCloseTo(1, 9)
    expect(driftAfter(500, rateOf(25), rateOf(25))).toBe(0)
  })
})

describe('timecode (SMPTE ST 12-1, rule from memory; tests/outside/media.test.ts has ffmpeg’s count)', () => {
  it('counts plainly at whole rates', () => {
    expect([0, 23, 24, 24 * 3661 + 5].map(frame => timecode(frame, rateOf(24)))).toEqual([
      '00:00:00:00',
      '00:00:00:23',
      '00:00:01:00',
      '01:01:01:05',
    ])
  })
  it('leaves out two numbers a minute but each tenth', () => {
    expect([1799, 1800, 17981, 17982].map(frame => timecode(frame, NTSC, true))).toEqual([
      '00:00:59;29',
      '00:01:00;02',
      '00:09:59;29',
      '00:10:00;00',
    ])
    // An hour of the clock is 107892 frames
    expect(timecode(107892, NTSC, true)).toBe('01:00:00;00')
    expect(timecode(3600, rateOf(60000, 1001), true)).toBe('00:01:00;04')
  })
  it('stays within 5 frames of the clock over a day (2 within ten minutes, 2.6 left over at the end)', () => {
    for (let frame = 0; frame < 2589408; frame += 9973) {
      const [h, m, s, f] = timecode(frame, NTSC, true).split(/[:;]/).map(Number) as [number, number, number, number]
      expect(Math.abs(h * 3600 + m * 60 + s + f / 30 - (frame * 1001) / 30000)).toBeLessThan(0.16)
    }
  })
  it('and frames are each other’s reverse', () => {
    for (const [rate, drop] of [
      [NTSC, true],
      [NTSC, false],
      [FILM, false],
      [rateOf(25), false],
      [rateOf(60000, 1001), true],
    ] as const) {
      for (let frame = 0; frame < 200000; frame += 977)
        expect(frameOfTimecode(timecode(frame, rate, drop), rate)).toEqual({ frame, drop })
    }
  })
  it('that does not exist is refused', () => {
    for (const text of ['00:01:00;00', '00:00:00:30', '24:00:00:00', '1:2:3', 'noon', '00:60:00:00'])
      expect(() => frameOfTimecode(text, NTSC), text).toThrow(/timecode/)
    expect(() => timecode(5, rateOf(25), true)).toThrow(/Drop-frame/)
  })
})
