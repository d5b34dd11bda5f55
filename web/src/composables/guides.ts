/** Something that places are drawn to, and what it is called. */
export interface Guide {
  at: number
  name: string
}

export interface Snapped {
  value: number
  guide: Guide | null
}

/** The nearest guide that one of some edges of a thing comes close to: where the thing then lies. */
export function drawnTo(value: number, edges: readonly number[], guides: readonly Guide[], within: number): Snapped {
  let best: Snapped = { value, guide: null }
  let least = within
  for (const guide of guides)
    for (const edge of edges) {
      const off = guide.at - (value + edge)
      if (Math.abs(off) < least) [least, best] = [Math.abs(off), { value: value + off, guide }]
    }
  return best
}

/** A span of something: both its ends and its middle. */
export function spanGuides(from: number, to: number, name: string): Guide[] {
  return [
    { at: from, name: `foot of ${name}` },
    { at: to, name: `top of ${name}` },
    { at: (from + to) / 2, name: `middle of ${name}` },
  ]
}
