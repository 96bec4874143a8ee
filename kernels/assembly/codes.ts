// Values of 8-bit codes, as tables that every thread makes for itself.

export const LINEAR = memory.data(1024) // value of each 8-bit code, sRGB decoded (IEC 61966-2-1)
export const PLAIN = memory.data(1024) // value of each 8-bit code, as it stands

export function initCodes(): void {
  for (let code = 0; code < 256; code++) {
    const value = <f64>code / 255
    store<f32>(PLAIN + (code << 2), <f32>value)
    store<f32>(LINEAR + (code << 2), <f32>(value <= 0.04045 ? value / 12.92 : Math.pow((value + 0.055) / 1.055, 2.4)))
  }
}
