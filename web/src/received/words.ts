/** Units that models are made in, and mm of each. */
export const UNITS: [string, number][] = [
  ['millimetre', 1],
  ['centimetre', 10],
  ['metre', 1000],
  ['inch', 25.4],
  ['foot', 304.8],
]
export const UPS = ['+y', '+z', '+x', '-y', '-z', '-x']

/** What a part can be of its pack. */
export const ROLES: Record<string, string> = {
  part: 'a part',
  container: 'the container',
  contents: 'the contents',
  closure: 'the closure',
  label: 'a label',
  'left out': 'left out',
}
