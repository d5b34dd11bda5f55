<script setup lang="ts">
import type * as THREE from 'three'
import { computed } from 'vue'

import type { AnyShape, Label, Pack } from '@/api/client'
import type { Page } from '@/composables/page'
import type { Met } from '@/round/packInTheRound'
import type { Mark } from '@/round/marks'
import RoundView, { type Rest } from '@/round/RoundView.vue'
import { carriedTo, guidesAround, guidesUp } from './places'
import type { Sheet } from './printed'
import type { Hand, Spot, Tape } from './pointing'

/** The pack in the round, on which artwork and labels are dragged, places pointed at and measured. */
const props = defineProps<{
  pack: Pack
  shape: AnyShape
  pictures: THREE.Texture[]
  proof: string | null
  sheet: Sheet | undefined
  which: number
  page: Page
  picking: string
  locked: boolean
  pointed: Spot | null
  tape: Tape | null
}>()
const emit = defineEmits<{
  rest: [view: Rest | null]
  pick: [part: string, at: [number, number, number]]
  loop: [part: string, places: [number, number, number][]]
  point: [spot: Spot | null]
  tape: [tape: Tape | null]
  grabArtwork: [spot: Spot]
  moveArtwork: [spot: Spot]
  moveLabel: [change: Partial<Label>, names: string[]]
  letGo: []
  putLabel: [part: string, at: [number, number, number]]
}>()
const hand = defineModel<Hand>('hand', { required: true })

const HANDS: { hand: Hand; words: string; hint: string }[] = [
  { hand: 'turn', words: 'Turn', hint: 'Drag to turn the pack' },
  { hand: 'artwork', words: 'Artwork', hint: 'Drag artwork on the pack' },
  { hand: 'label', words: 'Label', hint: 'Drag the label over the pack' },
  { hand: 'tape', words: 'Tape', hint: 'Drag to measure, here or on the flat label' },
]

/** A place on this sheet's print, mm on its page. */
function spotOf(met: Met | null): Spot | null {
  if (!met?.on || met.panel !== props.which) return null
  const { left, foot, width, height } = props.page
  return { x: left + met.on[0] * width, y: foot + met.on[1] * height }
}
function on({ x, y }: Spot): [number, number] {
  const { left, foot, width, height } = props.page
  return [(x - left) / width, (y - foot) / height]
}
const marks = computed<Mark[]>(() => {
  const found: Mark[] = []
  if (props.pointed) found.push({ panel: props.which, places: [on(props.pointed)] })
  if (props.tape) found.push({ panel: props.which, places: [on(props.tape.from), on(props.tape.to)] })
  return found
})

let held: { met: Met; label: Label | null } | null = null
const holds = (met: Met): boolean => {
  if (hand.value === 'turn' || props.picking) return false
  return hand.value === 'tape' ? spotOf(met) !== null : met.panel === props.which && !props.locked
}
function grab(met: Met): void {
  const label = props.sheet?.label
  held = { met, label: label ? (JSON.parse(JSON.stringify(label)) as Label) : null }
  const spot = spotOf(met)
  if (hand.value === 'artwork' && spot) emit('grabArtwork', spot)
  if (hand.value === 'tape' && spot) emit('tape', { from: spot, to: spot })
}
function carry(met: Met | null, free: boolean): void {
  if (!met || !held) return
  const spot = spotOf(met)
  if (hand.value === 'tape' && spot && props.tape) emit('tape', { from: props.tape.from, to: spot })
  if (hand.value === 'artwork' && spot) emit('moveArtwork', spot)
  const label = hand.value === 'label' ? held.label : null
  if (label && label.kind !== 'picked' && !elsewhere(label, met)) moveLabel(label, met, free)
}
/** Whether a label that goes around one part was brought to another, which is no label itself. */
const elsewhere = (label: Label, met: Met): boolean =>
  label.kind === 'wrap' && met.panel === null && met.part !== (label.part ?? 'body')
function moveLabel(label: Label, met: Met, free: boolean): void {
  const turned = props.pack.form.kind === 'vessel' && props.pack.form.stands_on === 'closure'
  const guides = {
    up: guidesUp(props.pack, props.shape, props.which),
    around: guidesAround(props.pack, props.which),
  }
  const { change, names } = carriedTo(label, held!.met.at, met.at, guides, { turned, free })
  emit('moveLabel', change as Partial<Label>, names)
}
/** A label lies where it was let go: on a picked place on whatever part that is, or around another part. */
function letGo(met: Met | null): void {
  const label = hand.value === 'label' ? held?.label : null
  if (met && label && (label.kind === 'picked' || elsewhere(label, met))) {
    // on its way it was carried along the part that it leaves
    if (label.kind === 'wrap') emit('moveLabel', { from_base: label.from_base, centre_angle: label.centre_angle }, [])
    emit('putLabel', met.part, met.at)
  }
  held = null
  emit('letGo')
}
</script>

<template>
  <RoundView
    :shape="shape"
    :pictures="pictures"
    label="The artwork on the pack"
    :proof="proof"
    :picking="Boolean(picking)"
    :lasso="picking === 'loop'"
    :marks="marks"
    :holds="holds"
    :preferred="which"
    @rest="$emit('rest', $event)"
    @pick="(part, at) => $emit('pick', part, at)"
    @loop="(part, places) => $emit('loop', part, places)"
    @over="(met) => $emit('point', spotOf(met))"
    @grab="grab"
    @carry="carry"
    @let-go="letGo"
  />
  <div class="hands" role="radiogroup" aria-label="What dragging on the pack does">
    <button
      v-for="one in sheet?.label ? HANDS : HANDS.filter((one) => one.hand !== 'label')"
      :key="one.hand"
      type="button"
      role="radio"
      :aria-checked="hand === one.hand"
      :title="one.hint"
      :data-test="`hand-${one.hand}`"
      @click="hand = one.hand"
    >
      {{ one.words }}
    </button>
  </div>
</template>

<style scoped>
.hands {
  position: absolute;
  z-index: 1;
  right: 10px;
  top: 8px;
  display: flex;
}
button {
  border: 1px solid #cfc6b3;
  margin-left: -1px;
  background: var(--card);
  padding: 2px 9px;
  font: inherit;
  font-size: 13px;
  cursor: pointer;
}
[aria-checked='true'] {
  background: var(--ink);
  color: #fff;
}
</style>
