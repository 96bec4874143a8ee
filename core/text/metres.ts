/** A length in the unit that it is spoken of in: 3 mm, 12 cm, 1.8 m, 2 km. digits: of significance. */
export function lengthText(metres: number, digits = 3): string {
  const [size, unit] =
    Math.abs(metres) < 0.00995
      ? [1000, 'mm']
      : Math.abs(metres) < 0.9995
        ? [100, 'cm']
        : Math.abs(metres) < 999.5
          ? [1, 'm']
          : [0.001, 'km']
  return `${Number((metres * Number(size)).toPrecision(digits))} ${unit}`
}
