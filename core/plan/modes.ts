// Blending modes: W3C Compositing and Blending Level 1, and plain arithmetic. The number is the kernel's.
export interface BlendMode {
  id: string
  label: string
  kernel: number
}
export const BLEND_MODES: readonly BlendMode[] = [
  ['over', 'over', 0],
  ['multiply', 'multiply', 1],
  ['screen', 'screen', 2],
  ['overlay', 'overlay', 3],
  ['darken', 'darken (min)', 4],
  ['lighten', 'lighten (max)', 5],
  ['color-dodge', 'colour dodge', 6],
  ['color-burn', 'colour burn', 7],
  ['hard-light', 'hard light', 8],
  ['soft-light', 'soft light', 9],
  ['difference', 'difference', 10],
  ['exclusion', 'exclusion', 11],
  ['hue', 'hue', 12],
  ['saturation', 'saturation', 13],
  ['color', 'colour', 14],
  ['luminosity', 'luminosity', 15],
  ['add', 'add', 16],
  ['subtract', 'subtract', 17],
  ['divide', 'divide', 18],
].map(([id, label, kernel]) => ({ id, label, kernel }) as BlendMode)

export function blendKernel(id: string): number {
  const found = BLEND_MODES.find(mode => mode.id === id)
  if (!found) throw new Error(`There is no blending mode “${id}”.`)
  return found.kernel
}
