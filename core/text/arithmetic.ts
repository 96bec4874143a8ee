// Sums typed into a value: + - * / ( ), with a unit that is ignored at the end.
/** The value of an expression, or undefined when it is none. A leading += etc. works on `current`. */
export function arithmetic(text: string, current = 0): number | undefined {
  let source = text
    .trim()
    .replace(/,/g, '.')
    .replace(/(?<=[\d.)\s])\s*(stops?|px|mm|m|k|%|°|deg|s)\s*$/i, '')
  const relative = /^([+\-*/])=\s*(.*)$/.exec(source)
  if (relative) source = `(${current})${relative[1]}(${relative[2]})`
  const tokens = source.match(/\d*\.?\d+(?:e[+-]?\d+)?|[-+*/()]|\S/gi) ?? []
  let at = 0
  const primary = (): number => {
    const token = tokens[at++]
    if (token === '-') return -primary()
    if (token === '+') return primary()
    if (token === '(') {
      const value = sum()
      if (tokens[at++] !== ')') return NaN
      return value
    }
    return token !== undefined && /^[\d.]/.test(token) ? Number(token) : NaN
  }
  const product = (): number => {
    let value = primary()
    while (tokens[at] === '*' || tokens[at] === '/')
      value = tokens[at++] === '*' ? value * primary() : value / primary()
    return value
  }
  const sum = (): number => {
    let value = product()
    while (tokens[at] === '+' || tokens[at] === '-')
      value = tokens[at++] === '+' ? value + product() : value - product()
    return value
  }
  const value = sum()
  return at === tokens.length && Number.isFinite(value) ? value : undefined
}
