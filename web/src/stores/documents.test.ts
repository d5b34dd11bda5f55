import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import { Refused } from '@/api/client'
import { type Calls, Draft, type Saved, Together } from './documents'
import { hand } from './hand'

interface Doc {
  size: number
}

function at(revision: number, size: number): Saved<Doc> {
  return {
    id: 1,
    key: 'bottle',
    name: 'Bottle',
    revision,
    can_undo: revision > 1,
    can_redo: false,
    made: `2026-01-0${revision}`,
    document: { size },
  }
}

function callsThat(changes: Partial<Calls<Doc>>): Calls<Doc> {
  return {
    save: vi.fn(async (_id, base: number, document: Doc) => at(base + 1, document.size)),
    read: vi.fn(async () => at(4, 40)),
    undo: vi.fn(async () => at(1, 10)),
    redo: vi.fn(async () => at(2, 20)),
    restore: vi.fn(async () => at(9, 99)),
    ...changes,
  }
}

beforeEach(() => vi.useFakeTimers())
afterEach(() => vi.useRealTimers())

describe('Draft', () => {
  it('keeps trying while the disk is full, and says what the studio said', async () => {
    const full = new Refused(507, { message: 'The disk is full.', place: '' })
    const save = vi.fn(async (_id: number, base: number, document: Doc) => at(base + 1, document.size))
    save.mockRejectedValueOnce(full).mockRejectedValueOnce(full)
    const draft = new Draft(at(1, 10), callsThat({ save }))
    draft.edit((d) => (d.size = 11))
    await vi.advanceTimersByTimeAsync(500)
    expect([draft.state, draft.message, draft.document.size]).toEqual(['offline', 'The disk is full.', 11])
    expect(new Together([draft]).message).toBe('The disk is full.')
    await vi.runAllTimersAsync()
    expect(save).toHaveBeenCalledTimes(3)
    expect([draft.state, draft.message]).toEqual(['saved', ''])
  })

  it('saves a gesture as one step, when it has let go', async () => {
    const calls = callsThat({})
    const draft = new Draft(at(1, 10), calls)
    hand.holds = true
    draft.edit((d) => (d.size = 11))
    await vi.advanceTimersByTimeAsync(5000)
    draft.edit((d) => (d.size = 12))
    await vi.advanceTimersByTimeAsync(5000)
    expect([draft.state, draft.document.size]).toEqual(['changed', 12])
    expect(calls.save).not.toHaveBeenCalled()
    hand.holds = false
    await vi.runAllTimersAsync()
    expect(calls.save).toHaveBeenCalledOnce()
    expect(calls.save).toHaveBeenCalledWith(1, 1, { size: 12 })
  })

  it('saves once the hand rests, as one revision', async () => {
    const calls = callsThat({})
    const draft = new Draft(at(1, 10), calls)
    draft.edit((d) => (d.size = 11))
    draft.edit((d) => (d.size = 12))
    expect(draft.state).toBe('changed')
    await vi.runAllTimersAsync()
    expect(calls.save).toHaveBeenCalledOnce()
    expect(calls.save).toHaveBeenCalledWith(1, 1, { size: 12 })
    expect([draft.state, draft.saved.revision]).toEqual(['saved', 2])
  })

  it('keeps the document and says why when it is refused, and undo drops the change', async () => {
    const calls = callsThat({
      save: async () => {
        throw new Refused(422, { message: 'too thick', place: 'body.wall_thickness' })
      },
    })
    const draft = new Draft(at(1, 10), calls)
    draft.edit((d) => (d.size = 500))
    await vi.runAllTimersAsync()
    expect([draft.state, draft.message, draft.place]).toEqual(['refused', 'too thick', 'body.wall_thickness'])
    expect(draft.document.size).toBe(500)
    await draft.undo()
    expect([draft.state, draft.document.size]).toEqual(['saved', 10])
    expect(calls.undo).not.toHaveBeenCalled()
  })

  it('is not refused after all when undone while the refusal is on its way', async () => {
    let refuse: (reason: unknown) => void = () => undefined
    const save = vi.fn(() => new Promise<Saved<Doc>>((_, reject) => (refuse = reject)))
    const draft = new Draft(at(1, 10), callsThat({ save }))
    draft.edit((d) => (d.size = 500))
    const saving = draft.flush()
    const undone = draft.undo()
    refuse(new Refused(422, { message: 'too thick', place: '' }))
    await Promise.all([saving, undone])
    expect([draft.state, draft.document.size]).toEqual(['saved', 10])
  })

  it('saves what was put right while the refusal of what was wrong was on its way', async () => {
    let refuse: (reason: unknown) => void = () => undefined
    const save = vi
      .fn<Calls<Doc>['save']>(async (_id, base, document) => at(base + 1, document.size))
      .mockImplementationOnce(() => new Promise((_, reject) => (refuse = reject)))
    const draft = new Draft(at(1, 10), callsThat({ save }))
    draft.edit((d) => (d.size = 500))
    const saving = draft.flush()
    draft.edit((d) => (d.size = 12))
    refuse(new Refused(422, { message: 'too thick', place: '' }))
    await saving
    await vi.runAllTimersAsync()
    expect([draft.state, draft.saved.document.size]).toEqual(['saved', 12])
  })

  it('offers both sides of a clash', async () => {
    const calls = callsThat({
      save: async () => {
        throw new Refused(409, { message: 'changed elsewhere', place: '', current: 4, kept: 5 })
      },
    })
    const draft = new Draft(at(1, 10), calls)
    draft.edit((d) => (d.size = 11))
    await vi.runAllTimersAsync()
    expect([draft.state, draft.kept]).toEqual(['stale', 5])
    await draft.settle(true)
    expect(calls.restore).toHaveBeenCalledWith(1, 5)
    expect([draft.state, draft.document.size]).toEqual(['saved', 99])
    await draft.settle(false)
    expect([draft.saved.revision, draft.document.size]).toEqual([4, 40])
  })

  it('keeps trying while the studio does not answer', async () => {
    let tries = 0
    const calls = callsThat({
      save: async (_id, base, document) => {
        if (++tries < 3) throw new Refused(0, { message: 'no answer', place: '' })
        return at(base + 1, document.size)
      },
    })
    const draft = new Draft(at(1, 10), calls)
    draft.edit((d) => (d.size = 11))
    await vi.runAllTimersAsync()
    expect([tries, draft.state]).toEqual([3, 'saved'])
  })

  it('takes over what another window saved, but not over own changes', async () => {
    const read = vi.fn(async () => at(2, 20))
    const draft = new Draft(at(1, 10), callsThat({ read }))
    await draft.hear(2)
    expect(draft.document.size).toBe(20)
    draft.edit((d) => (d.size = 21))
    await draft.hear(3)
    expect([draft.document.size, read.mock.calls.length]).toEqual([21, 1])
  })

  it('does not read again what it saved itself, whichever is heard first', async () => {
    const calls = callsThat({})
    const draft = new Draft(at(1, 10), calls)
    draft.edit((d) => (d.size = 11))
    const saved = draft.flush()
    const heard = draft.hear(2)
    await Promise.all([saved, heard])
    await draft.hear(2)
    expect([draft.saved.revision, draft.state]).toEqual([2, 'saved'])
    expect(calls.read).not.toHaveBeenCalled()
  })

  it('does not go back to what was read before it saved', async () => {
    let answer: (saved: Saved<Doc>) => void = () => undefined
    const read = vi.fn(() => new Promise<Saved<Doc>>((done) => (answer = done)))
    const draft = new Draft(at(1, 10), callsThat({ read }))
    const heard = draft.hear(2)
    await vi.waitFor(() => expect(read).toHaveBeenCalled())
    draft.edit((d) => (d.size = 11))
    await draft.flush()
    answer(at(2, 20))
    await heard
    expect(draft.document.size).toBe(11)
  })

  it('reads anew after a silence', async () => {
    const draft = new Draft(at(1, 10), callsThat({}))
    await draft.hear()
    expect(draft.document.size).toBe(40)
  })

  it('keeps what the hand does while a step is under way', async () => {
    let answer: (saved: Saved<Doc>) => void = () => undefined
    const calls = callsThat({ undo: () => new Promise((done) => (answer = done)) })
    const draft = new Draft(at(2, 20), calls)
    const undone = draft.undo()
    draft.edit((d) => (d.size = 33))
    answer(at(1, 10))
    await undone
    await vi.runAllTimersAsync()
    expect(draft.document.size).toBe(33)
    expect(calls.save).toHaveBeenCalledWith(1, 1, { size: 33 })
  })
})

describe('Together', () => {
  it('undoes the document that was changed last', async () => {
    const early = callsThat({})
    const late = callsThat({})
    const both = new Together([new Draft(at(2, 20), early), new Draft(at(3, 30), late)])
    await both.undo()
    expect(late.undo).toHaveBeenCalledOnce()
    expect(early.undo).not.toHaveBeenCalled()
    await both.undo()
    expect(early.undo).toHaveBeenCalledOnce()
    expect(both.canUndo).toBe(false)
  })
})
