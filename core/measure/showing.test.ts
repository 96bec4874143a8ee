// Parts of pictures where what was measured is best seen: patches of a made picture that are the darkest, the brightest, the
// sharpest and the evenest by how they are made.
import { describe, expect, it } from 'vitest'
import type { Box } from '../engine/box'
import { showingOf } from './showing'

const [WIDTH, HEIGHT] = [300, 200]
const PATCHES = {
  dark: { left: 20, top: 15, right: 90, bottom: 65 },
  bright: { left: 200, top: 20, right: 280, bottom: 70 },
  sharp: { left: 15, top: 120, right: 95, bottom: 180 },
  even: { left: 190, top: 110, right: 290, bottom: 190 },
} as const
const inside = (box: Box, x: number, y: number): boolean =>
  x >= box.left && x < box.right && y >= box.top && y < box.bottom
const holds = (patch: Box, part: Box | undefined): boolean =>
  !!part && part.left >= patch.left - 11 && part.top >= patch.top - 7 && part.right <= patch.right + 11 && part.bottom <= patch.bottom + 7 // prettier-ignore
/** Soft waves all over, with the patches in it. */
const picture = (): Float32Array => {
  const out = new Float32Array(WIDTH * HEIGHT * 4)
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      let light = 0.2 + 0.08 * Math.sin(x / 7) * Math.cos(y / 6)
      if (inside(PATCHES.dark, x, y)) light = 0.001 + 0.0005 * Math.sin(x)
      if (inside(PATCHES.bright, x, y)) light = 1.4 + 0.1 * Math.sin(x / 5)
      if (inside(PATCHES.sharp, x, y)) light = (Math.floor(x / 3) + Math.floor(y / 3)) % 2 ? 0.5 : 0.08
      if (inside(PATCHES.even, x, y)) light = 0.2 + 0.001 * Math.sin(x * 12.9898 + y * 78.233)
      out.set([light, light, light, 1], (y * WIDTH + x) * 4)
    }
  return out
}
const EVERYWHERE = new Uint8Array(WIDTH * HEIGHT).fill(1)

describe('what is best seen where', () => {
  it('are blacks where it is darkest, whites where it is brightest, edges and grain where they are', () => {
    const shows = showingOf({ plate: picture(), render: picture(), mask: EVERYWHERE, width: WIDTH })
    for (const side of ['plate', 'render'] as const) {
      expect(holds(PATCHES.dark, shows.blacks![side])).toBe(true)
      expect(holds(PATCHES.bright, shows.whites![side])).toBe(true)
      expect(holds(PATCHES.sharp, shows.sharpness![side])).toBe(true)
      expect(holds(PATCHES.even, shows.grain![side])).toBe(true)
    }
    expect(shows.noise).toEqual(shows.grain)
    expect(Object.keys(shows).sort()).toEqual(['blacks', 'grain', 'noise', 'sharpness', 'whites'])
  })
  it('of the render only where that is seen, its border no edge', () => {
    const mask = Uint8Array.from(EVERYWHERE, (_, i) => Number(i % WIDTH >= 150))
    const render = picture()
    // Black beside it: a border as sharp as any
    for (let i = 0; i < mask.length; i++) if (!mask[i]) render.fill(0, i * 4, i * 4 + 3)
    const shows = showingOf({ plate: picture(), render, mask, width: WIDTH })
    for (const part of Object.values(shows)) expect(part.render!.left).toBeGreaterThanOrEqual(149)
    expect(holds(PATCHES.dark, shows.blacks!.plate)).toBe(true)
    expect(holds(PATCHES.bright, shows.whites!.render)).toBe(true)
  })
  it('of what is small there is a part that mostly shows it, of what is smaller none', () => {
    const of = (side: number) => {
      const mask = Uint8Array.from(EVERYWHERE, (_, i) =>
        Number(i % WIDTH >= 100 && i % WIDTH < 100 + side && Math.floor(i / WIDTH) >= 50 && Math.floor(i / WIDTH) < 78),
      )
      return showingOf({ plate: picture(), render: picture(), mask, width: WIDTH }).blacks!
    }
    expect(of(34).render).toMatchObject({ top: 49 })
    expect(of(12).render).toBeUndefined()
    expect(of(12).plate).toBeDefined()
  })
})
