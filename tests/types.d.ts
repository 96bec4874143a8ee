declare module 'murmurhash3js-revisited' {
  const murmur: { x86: { hash32(bytes: Uint8Array | string): number }; inputValidation: boolean }
  export default murmur
}
declare module 'culori' {
  export function differenceCiede2000(): (a: object, b: object) => number
}
declare module 'bunny' {
  const mesh: { positions: [number, number, number][]; cells: [number, number, number][] }
  export default mesh
}
declare module 'gltf-validator' {
  const validator: { validateBytes(bytes: Uint8Array): Promise<{ issues: { numErrors: number; messages: unknown[] } }> }
  export default validator
}
