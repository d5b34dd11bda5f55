/** Reading what people type into a field with a unit: numbers, arithmetic, other units. */

const MM_IN: Record<string, number> = { mm: 1, cm: 10, m: 1000, in: 25.4, '"': 25.4, pt: 25.4 / 72 }
const ML_IN: Record<string, number> = { ml: 1, cl: 10, dl: 100, l: 1000 }
const FAMILIES = [MM_IN, ML_IN]

/** The value in `unit` of a text such as "210/2", "2 in" or "1,5 cm"; null when it is not one. */
export function parseQuantity(text: string, unit: string): number | null {
  const family = FAMILIES.find((f) => unit in f)
  let expression = text
    .trim()
    .replace(/(\d),(\d)/g, '$1.$2')
    .replace(/×/g, '*')
    .replace(/−/g, '-')
  if (family) {
    const names = Object.keys(family).sort((a, b) => b.length - a.length)
    const pattern = new RegExp(`(\\d(?:[\\d.]*))\\s*(${names.join('|')})(?![a-z])`, 'g')
    expression = expression.replace(pattern, (_, n: string, u: string) => `(${n}*${family[u]! / family[unit]!})`)
  } else {
    expression = expression.replace(new RegExp(`\\s*(${escaped(unit)})\\s*$`), '')
  }
  const value = evaluate(expression)
  return value !== null && Number.isFinite(value) ? value : null
}

/** A number as it is shown: at most `digits` decimals, no trailing zeros. */
export function showNumber(value: number, digits = 1): string {
  return String(Number(value.toFixed(digits)))
}

function escaped(text: string): string {
  return text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')
}

/** Sums, products and brackets. */
function evaluate(text: string): number | null {
  const symbols = text.match(/\d+\.?\d*(?:e[+-]?\d+)?|\.\d+|[-+*/()]|\S/gi) ?? []
  let at = 0
  function factor(): number {
    const symbol = symbols[at++]
    if (symbol === '-') return -factor()
    if (symbol === '+') return factor()
    if (symbol === '(') {
      const inner = sum()
      if (symbols[at++] !== ')') throw new SyntaxError('unclosed bracket')
      return inner
    }
    const value = Number(symbol)
    if (symbol === undefined || Number.isNaN(value)) throw new SyntaxError('not a number')
    return value
  }
  function product(): number {
    let value = factor()
    while (symbols[at] === '*' || symbols[at] === '/')
      value = symbols[at++] === '*' ? value * factor() : value / factor()
    return value
  }
  function sum(): number {
    let value = product()
    while (symbols[at] === '+' || symbols[at] === '-')
      value = symbols[at++] === '+' ? value + product() : value - product()
    return value
  }
  try {
    const value = sum()
    return at === symbols.length ? value : null
  } catch {
    return null
  }
}
