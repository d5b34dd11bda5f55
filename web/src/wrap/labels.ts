import { computed, type Ref, ref } from 'vue'

import { answer, api, AS_IT_IS, type Label, type LabelKind, type Pack, wordsFor } from '@/api/client'
import { useJob } from '@/stores/job'
import { freeName, takeOff } from './laying'
import type { Sheet } from './printed'

type Place = [number, number, number]
/** Whether a place is being picked: for a new label, for the one that is worked on, or by a loop around it. */
type Picking = '' | 'new' | 'move' | 'loop'

/** Labels that come onto a pack, are moved on it by pointing, cut to a loop, and go. */
export function useLabels(
  pack: () => Pack,
  sheet: () => Sheet | undefined,
  edit: (change: (document: Pack) => void) => void,
  open: (label: number) => void,
) {
  const job = useJob()
  const picking: Ref<Picking> = ref('')
  const problem = ref('')
  const body = computed(() => ({ pack: pack(), palette: job.palette, key: '', colourway: AS_IT_IS }))

  async function asked(what: () => Promise<void>): Promise<void> {
    problem.value = ''
    try {
      await what()
    } catch (error) {
      problem.value = wordsFor(error)
    }
  }

  /** Put a label on, and go on with it. */
  function add(label: Label): void {
    edit((d) => d.panels.push({ ...(JSON.parse(JSON.stringify(label)) as Label), name: freeName(label.name, d) }))
    open(pack().panels.length - 1)
  }
  const addKind = (kind: LabelKind) =>
    asked(async () =>
      add((await answer(api.POST('/api/starting-panel', { params: { query: { kind } }, body: body.value }))) as Label),
    )

  /** A place was picked: a label goes there, or the one that is worked on. */
  function pick(part: string, at: Place): void {
    const how = picking.value
    if (how !== 'new' && how !== 'move') return
    picking.value = ''
    void asked(() => put(how, part, at))
  }
  async function put(how: 'new' | 'move', part: string, at: Place | null): Promise<void> {
    const index = sheet()?.index ?? -1
    if (how === 'new' && at)
      return add((await answer(api.POST('/api/picked-panel', { body: { ...body.value, part, at } }))) as Label)
    const moved = await answer(api.POST('/api/moved-panel', { body: { ...body.value, panel: index, part, at } }))
    edit((d) => Object.assign(d.panels[index]!, moved))
  }

  /** A loop was drawn: the label is cut to it. */
  function cutTo(part: string, loop: Place[]): void {
    picking.value = ''
    const panel = sheet()?.index ?? -1
    void asked(async () => {
      const { at, width, height, outline, ...cut } = await answer(
        api.POST('/api/lasso', { body: { ...body.value, panel, part, loop } }),
      )
      edit((d) => Object.assign(d.panels[panel]!, { part: cut.part, at, width, height, outline, rounding: 0 }))
    })
  }

  function takeLabelOff(): void {
    const of = sheet()
    if (of?.label) edit((d) => takeOff(d, of.index))
  }

  /** Let the label lie on another part, at a place there or where it is. */
  const move = (part: string, at: Place | null = null) => asked(() => put('move', part, at))

  return { picking, problem, add, addKind, pick, move, cutTo, takeLabelOff }
}
