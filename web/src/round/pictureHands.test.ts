import { describe, expect, it } from 'vitest'

import { type PictureDoes, scrolled, usePictureHands } from './pictureHands'

const BOX = { left: 0, top: 0, width: 200, height: 100 }
const element = { getBoundingClientRect: () => BOX, setPointerCapture: () => undefined }
type Hand = Partial<Pick<PointerEvent, 'pointerId' | 'pointerType' | 'button' | 'buttons' | 'shiftKey'>>

function at(x: number, y: number, hand: Hand = {}): PointerEvent {
  const usual = { pointerId: 1, pointerType: 'mouse', button: 0, buttons: 1, shiftKey: false }
  return { currentTarget: element, clientX: x, clientY: y, ...usual, ...hand } as unknown as PointerEvent
}
function hands(more: Partial<PictureDoes> = {}) {
  const done: unknown[][] = []
  const noted =
    (what: string) =>
    (...values: unknown[]) =>
      void done.push([what, ...values])
  const does: PictureDoes = {
    pointing: () => false,
    met: () => null,
    onFloor: ({ x, y }) => ({ x: 100 * x, y: 100 * y }),
    point: noted('point'),
    choose: noted('choose'),
    carry: noted('carry'),
    orbit: noted('orbit'),
    pan: noted('pan'),
    nearer: noted('nearer'),
    ...more,
  }
  return { ...usePictureHands(does), done }
}

describe('hands on a picture', () => {
  it('turn around it', () => {
    const { down, drag, up, done } = hands()
    down(at(50, 50))
    drag(at(60, 40))
    up(at(60, 40))
    drag(at(90, 90))
    expect(done).toEqual([['orbit', -3.5, -12]])
  })
  it('move it with the right button, choosing nothing', () => {
    const { down, drag, done } = hands({ met: () => ({ id: 'a', carried: false }) })
    down(at(50, 50, { button: 2 }))
    drag(at(70, 60, { button: 2 }))
    expect(done).toEqual([['pan', 0.1, 0.1]])
  })
  it('carry what is chosen, and choose what is not', () => {
    const carried = hands({ met: () => ({ id: 'a', carried: true }) })
    carried.down(at(100, 50))
    carried.drag(at(120, 50))
    carried.up(at(120, 50))
    expect(carried.done).toEqual([
      ['carry', 'a', 20, 0, false],
      ['carry', 'a', 20, 0, true],
    ])
    const other = hands({ met: () => ({ id: 'b', carried: false }) })
    other.down(at(100, 50, { shiftKey: true }))
    expect(other.done).toEqual([['choose', 'b', true]])
  })
  it('say places while they point', () => {
    const { down, drag, done } = hands({ pointing: () => true })
    down(at(50, 25))
    drag(at(400, 25))
    drag(at(60, 25, { buttons: 0 }))
    expect(done).toEqual([
      ['point', { x: 0.25, y: 0.25 }],
      ['point', { x: 1, y: 0.25 }],
    ])
  })
  it('step nearer and move it with two fingers, and let go of what one of them held', () => {
    const { down, drag, up, done } = hands({ met: () => ({ id: 'a', carried: true }) })
    const first = { pointerType: 'touch', pointerId: 1 }
    const second = { pointerType: 'touch', pointerId: 2 }
    down(at(80, 50, first))
    down(at(120, 50, second))
    drag(at(160, 50, second))
    expect(done).toEqual([
      ['nearer', 0.5],
      ['pan', 0.1, 0],
    ])
    up(at(160, 50, second))
    drag(at(20, 50, first))
    expect(done).toHaveLength(2)
  })
  it('take small steps on a pad, and never large ones', () => {
    const wheel = { deltaX: 0, deltaY: 0, deltaMode: 0, ctrlKey: false }
    expect(scrolled({ ...wheel, deltaY: 100 }).nearer).toBeCloseTo(Math.exp(0.04))
    expect(scrolled({ ...wheel, deltaY: 3, deltaMode: 1 }).nearer).toBeCloseTo(1.04, 2)
    expect(scrolled({ ...wheel, deltaY: -4 }).nearer).toBeCloseTo(Math.exp(-0.0016))
    expect(scrolled({ ...wheel, deltaY: 5000 }).nearer).toBeLessThan(1.06)
    expect(scrolled({ ...wheel, deltaY: -10, ctrlKey: true }).nearer).toBeCloseTo(Math.exp(-0.1))
    expect(scrolled({ ...wheel, deltaX: 10, deltaY: 3 })).toEqual({ turn: 1.2 })
  })
  it('do with keys what they do by dragging', () => {
    const { key, done } = hands()
    const pressed = (name: string, shiftKey = false) =>
      key({ key: name, shiftKey, preventDefault: () => undefined } as KeyboardEvent)
    pressed('ArrowLeft')
    pressed('ArrowUp', true)
    pressed('+')
    pressed('q')
    expect(done).toEqual([
      ['orbit', -2, -0],
      ['pan', -0, 0.02],
      ['nearer', 1 / 1.04],
    ])
  })
})
