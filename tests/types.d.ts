declare module 'murmurhash3js-revisited' {
  const murmur: { x86: { hash32(bytes: Uint8Array | string): number }; inputValidation: boolean }
  export default murmur
}
declare module 'culori' {
  export function differenceCiede2000(): (a: object, b: object) => number
  interface Colours {
    lrgb: { mode: 'lrgb'; r: number; g: number; b: number }
    rgb: { mode: 'rgb'; r: number; g: number; b: number }
    oklch: { mode: 'oklch'; l: number; c: number; h?: number }
    oklab: { mode: 'oklab'; l: number; a: number; b: number }
    lab65: { mode: 'lab65'; l: number; a: number; b: number }
  }
  export function converter<M extends keyof Colours>(mode: M): (colour: Colours[keyof Colours]) => Colours[M]
}
declare module 'bunny' {
  const mesh: { positions: [number, number, number][]; cells: [number, number, number][] }
  export default mesh
}
declare module 'gltf-validator' {
  const validator: { validateBytes(bytes: Uint8Array): Promise<{ issues: { numErrors: number; messages: unknown[] } }> }
  export default validator
}
declare module 'gl-catmull-clark' {
  export default function catmullClark(
    positions: number[][],
    cells: number[][],
    steps: number,
    triangles: boolean,
  ): { positions: number[][]; cells: number[][] }
}
