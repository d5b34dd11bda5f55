/** Whether an outline goes around a place: a line from it to the right crosses it an odd number of times. */
export function holds(outline: readonly (readonly number[])[], [x, y]: readonly [number, number]): boolean {
  let inside = false
  outline.forEach(([ax, ay], i) => {
    const [bx, by] = outline[(i + 1) % outline.length]!
    if (ay! > y !== by! > y && x < ((bx! - ax!) * (y - ay!)) / (by! - ay!) + ax!) inside = !inside
  })
  return inside
}
