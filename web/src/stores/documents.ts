import { reactive } from 'vue'

import { Refused, wordsFor } from '@/api/client'
import { hand } from './hand'

const REST_MS = 450
const RETRY_MS = 2000

/** A document as the server keeps it. */
export interface Saved<D> {
  id: number
  key: string
  name: string
  revision: number
  can_undo: boolean
  can_redo: boolean
  made: string
  next_made?: string | null
  document: D
}

export type SaveState = 'saved' | 'changed' | 'saving' | 'refused' | 'stale' | 'offline'

/** What the top line needs: a state to show, and steps back and forward. */
export interface Steps {
  readonly state: SaveState
  /** What the studio said of the last save that did not work. */
  readonly message: string
  readonly canUndo: boolean
  readonly canRedo: boolean
  undo(): Promise<void>
  redo(): Promise<void>
}

/** How one kind of document talks to the server. */
export interface Calls<D> {
  read(id: number): Promise<Saved<D>>
  save(id: number, base: number, document: D): Promise<Saved<D>>
  undo(id: number): Promise<Saved<D>>
  redo(id: number): Promise<Saved<D>>
  restore(id: number, number: number): Promise<Saved<D>>
}

/**
 * A document being worked on. Every change shows at once and is saved when the hand rests;
 * undo and redo are the server's, so they outlive a reload.
 */
export class Draft<D extends object> implements Steps {
  document: D
  state: SaveState = 'saved'
  message = ''
  place = ''
  kept: number | null = null
  private timer: ReturnType<typeof setTimeout> | undefined
  private underway: Promise<void> | null = null
  private hearing: Promise<void> = Promise.resolve()
  private edits = 0

  constructor(
    public saved: Saved<D>,
    private readonly calls: Calls<D>,
  ) {
    this.document = saved.document
  }

  get canUndo(): boolean {
    return this.state !== 'saved' || this.saved.can_undo
  }

  get canRedo(): boolean {
    return this.state === 'saved' && this.saved.can_redo
  }

  /** Change the document; `change` gets a copy it may alter freely. */
  edit(change: (document: D) => void): void {
    const copy = JSON.parse(JSON.stringify(this.document)) as D
    change(copy)
    if (JSON.stringify(copy) === JSON.stringify(this.document)) return
    this.document = copy
    this.edits += 1
    if (this.state !== 'stale') this.state = 'changed'
    this.rest()
  }

  /** Save when the hand rests and has let go. */
  private rest(): void {
    clearTimeout(this.timer)
    this.timer = setTimeout(() => (hand.holds ? this.rest() : void this.flush()), REST_MS)
  }

  /** Save what has changed, now. */
  async flush(): Promise<void> {
    clearTimeout(this.timer)
    if (this.underway) await this.underway
    if (this.state !== 'changed' && this.state !== 'offline') return
    await this.during(this.save())
  }

  /** Step back. A change that was refused or not saved yet is simply dropped. */
  async undo(): Promise<void> {
    if (this.state === 'changed') await this.flush()
    if (this.underway) await this.underway
    if (this.state === 'saved') await this.step(() => this.calls.undo(this.saved.id))
    else this.take(this.saved)
  }

  async redo(): Promise<void> {
    if (this.state === 'saved') await this.step(() => this.calls.redo(this.saved.id))
  }

  /** Settle a clash with a change made elsewhere: mine was kept as a revision, theirs is current. */
  async settle(mine: boolean): Promise<void> {
    const kept = this.kept
    if (mine && kept !== null) await this.step(() => this.calls.restore(this.saved.id, kept))
    else await this.step(() => this.calls.read(this.saved.id))
  }

  /**
   * Hear that somebody saved a revision, or may have: take over what the server has, unless it is
   * one's own or something here is still on its way.
   */
  hear(revision?: number): Promise<void> {
    this.hearing = this.hearing.then(() => this.catchUp(revision)).catch(() => undefined)
    return this.hearing
  }

  private async catchUp(revision?: number): Promise<void> {
    await this.underway
    if (this.state !== 'saved' || revision === this.saved.revision) return
    const known = this.saved
    const found = await this.calls.read(this.saved.id)
    if (this.state === 'saved' && this.saved === known && found.revision !== known.revision) this.take(found)
  }

  private async save(): Promise<void> {
    const edits = this.edits
    this.state = 'saving'
    try {
      const saved = await this.calls.save(this.saved.id, this.saved.revision, this.document)
      this.saved = saved
      this.message = this.place = ''
      if (edits === this.edits) this.state = 'saved'
      else this.again()
    } catch (error) {
      // what was refused is no longer what is on the page: the newer state gets its own answer
      if (edits !== this.edits && error instanceof Refused && error.status === 422) this.again()
      else this.failed(error)
    }
  }

  private again(): void {
    this.state = 'changed'
    this.rest()
  }

  private failed(error: unknown): void {
    this.message = wordsFor(error)
    if (!(error instanceof Refused) || error.status === 0 || error.status >= 500) {
      this.state = 'offline'
      this.timer = setTimeout(() => void this.flush(), RETRY_MS)
    } else if (error.status === 409) {
      this.state = 'stale'
      this.kept = error.refusal.kept ?? null
    } else {
      this.state = 'refused'
      this.place = error.refusal.place
    }
  }

  private async step(call: () => Promise<Saved<D>>): Promise<void> {
    const edits = this.edits
    const taken = call().then(
      (saved) => {
        if (edits === this.edits) return this.take(saved)
        this.saved = saved // what the hand did meanwhile comes after it
        this.again()
      },
      (error) => void (this.message = wordsFor(error)),
    )
    await this.during(taken)
  }

  /** What the server answers next is one's own. */
  private async during(call: Promise<void>): Promise<void> {
    this.underway = call
    await call
    if (this.underway === call) this.underway = null
  }

  private take(saved: Saved<D>): void {
    clearTimeout(this.timer)
    this.saved = saved
    this.document = saved.document
    this.state = 'saved'
    this.message = this.place = ''
    this.kept = null
  }
}

/** A draft whose fields the page can watch. */
export function draftOf<D extends object>(saved: Saved<D>, calls: Calls<D>): Draft<D> {
  return reactive(new Draft<D>(saved, calls)) as unknown as Draft<D>
}

const GRAVITY: SaveState[] = ['stale', 'refused', 'offline', 'changed', 'saving', 'saved']

/** Several documents stepped as one, in the order in which they were changed. */
export class Together implements Steps {
  constructor(private readonly drafts: Draft<object>[]) {}

  get state(): SaveState {
    return GRAVITY.find((state) => this.drafts.some((d) => d.state === state)) ?? 'saved'
  }

  get message(): string {
    return this.drafts.find((d) => d.state === this.state)?.message ?? ''
  }

  get canUndo(): boolean {
    return this.drafts.some((d) => d.canUndo)
  }

  get canRedo(): boolean {
    return this.drafts.every((d) => d.state === 'saved') && this.drafts.some((d) => d.canRedo)
  }

  async undo(): Promise<void> {
    await Promise.all(this.drafts.map((d) => d.flush()))
    const unsaved = this.drafts.find((d) => d.state !== 'saved')
    const newest = this.drafts
      .filter((d) => d.saved.can_undo)
      .sort(by((d) => d.saved.made))
      .at(-1)
    await (unsaved ?? newest)?.undo()
  }

  async redo(): Promise<void> {
    const able = this.drafts.filter((d) => d.canRedo)
    await able.sort(by((d) => d.saved.next_made ?? ''))[0]?.redo()
  }
}

function by(key: (draft: Draft<object>) => string) {
  return (a: Draft<object>, b: Draft<object>) => (key(a) < key(b) ? -1 : 1)
}
