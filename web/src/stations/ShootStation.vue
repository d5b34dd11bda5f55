<script setup lang="ts">
import { Button, Progress, RadioButton, RadioGroup } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { answer, api, type Order, type Purpose, wordsFor } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'
import StationFrame from '@/components/StationFrame.vue'
import { latest } from '@/composables/latest'
import { useProof } from '@/stores/proof'
import { showNumber } from '@/composables/quantity'
import { showDuration } from '@/composables/time'
import { useJob } from '@/stores/job'
import { isOpen, takeNews } from '@/stores/orders'
import { byKey } from '@/stores/rows'
import ShotGrid, { type Cell } from './ShotGrid.vue'

const QUALITIES = [
  { name: 'Draft', noise: 8, words: 'to judge the light' },
  { name: 'Client', noise: 3, words: 'to send' },
  { name: 'Print', noise: 1.5, words: 'for the finest grain' },
]
const SIZES = [
  { name: 'Quick look 640 × 800', width: 640, height: 800 },
  { name: 'Portrait 1200 × 1500', width: 1200, height: 1500 },
  { name: 'Square 1500 × 1500', width: 1500, height: 1500 },
  { name: 'Wide 1920 × 1080', width: 1920, height: 1080 },
]

const job = useJob()
const purpose = computed(() => job.shot!.document.purposes[0]!)
const { proof, problem: proofProblem, hold } = useProof()
const route = useRoute()
const router = useRouter()
const open = computed(() => job.orders.filter(isOpen))
/** The one that develops, or is next. */
const order = computed(() => open.value.find((o) => o.state === 'running') ?? open.value[0] ?? null)
const ended = computed(() => [...job.orders].reverse().find((o) => !isOpen(o)) ?? null)
const here = computed<Cell>(() => ({ shot: job.shot!.saved.key, colourway: job.colourway?.saved.key ?? '' }))
const newest = computed(
  () => job.pictures.find((p) => p.shot_key === here.value.shot && p.colourway_key === here.value.colourway) ?? null,
)
/** What has been ticked; without that, what is open. */
const ticked = ref<Cell[]>([])
const wanted = computed(() => {
  const there = ticked.value.filter(
    (cell) => byKey(job.shots, cell.shot) && (!cell.colourway || byKey(job.colourways, cell.colourway)),
  )
  return there.length ? there : [here.value]
})
const many = computed(() => wanted.value.length > 1)
const problem = ref('')
const busy = ref(false)
const seconds = ref<number | null>(null)
const preview = ref('')

const edit = (change: (purpose: Purpose) => void) => job.shot!.edit((d) => change(d.purposes[0]!))
/** What a shot's pictures are to be. */
function wishOf(cell: Cell) {
  const shot = byKey(job.shots, cell.shot)!
  const its = shot.document.purposes[0]!
  return {
    shot_id: shot.saved.id,
    name: called(shot, cell.colourway),
    body: {
      width: its.width_px,
      height: its.height_px,
      samples: its.samples,
      noise: its.noise_percent ?? null,
      seconds: its.seconds ?? null,
      colourway: cell.colourway || null,
    },
  }
}
const wishes = computed(() => wanted.value.map(wishOf))

const estimate = latest(
  async (all: typeof wishes.value) => {
    const found = all.map(({ shot_id, body }) =>
      answer(api.POST('/api/shots/{shot_id}/estimate', { params: { path: { shot_id } }, body })),
    )
    return (await Promise.all(found)).map((one) => one.seconds ?? null)
  },
  (found) => (seconds.value = found.every((one) => one !== null) ? found.reduce((a, b) => a! + b!, 0) : null),
  () => (seconds.value = null),
)
watch([wishes, () => proof.value?.samples, () => job.pictures.length], () => estimate(wishes.value), {
  immediate: true,
})
/** Give every shot that is ticked the size and the quality of the open one. */
function alike(): void {
  const its = JSON.parse(JSON.stringify(purpose.value)) as Purpose
  for (const key of new Set(wanted.value.map((cell) => cell.shot)))
    byKey(job.shots, key)!.edit((d) => Object.assign(d.purposes[0]!, its))
}
function go(cell: Cell): void {
  void router.push({ query: { ...route.query, shot: cell.shot, colourway: cell.colourway || undefined } })
}
/** What an order is of, in words. */
function nameOf(one: Order): string {
  return called(
    job.shots.find((s) => s.saved.id === one.shot_id),
    one.colourway,
  )
}
/** A shot in a colourway, by the names of what is still there. */
function called(shot: (typeof job.shots)[number] | undefined, colourway: string): string {
  const way = colourway && byKey(job.colourways, colourway)?.saved.name
  return [shot?.saved.name ?? 'a shot', way].filter(Boolean).join(', ')
}
watch(
  () => order.value && `${order.value.id}:${order.value.samples_done}`,
  () => {
    if (order.value?.samples_done)
      preview.value = `/api/orders/${order.value.id}/preview.jpg?at=${order.value.samples_done}`
    else preview.value = ''
  },
  { immediate: true },
)

/** While a picture develops the machine is its own. */
watch(
  () => order.value?.id,
  (id) => id && hold(true),
  { immediate: true },
)

async function shoot(): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    await job.flush()
    const unsaved = job.drafts.find((d) => d.state !== 'saved')
    if (unsaved) throw new Error(`“${unsaved.saved.name}” is not saved: ${unsaved.message} Put that right first.`)
    for (const { shot_id, name, body } of wishes.value) {
      const call = api.POST('/api/shots/{shot_id}/orders', { params: { path: { shot_id } }, body })
      const made = await answer(call).catch((error) => {
        throw many.value ? new Error(`“${name}” was not ordered: ${wordsFor(error)}`) : error
      })
      if (!job.orders.some((o) => o.id === made.id)) job.orders.push(made)
    }
    ticked.value = []
  } catch (error) {
    problem.value = wordsFor(error)
  }
  busy.value = false
}
async function end(keep: boolean, which = order.value): Promise<void> {
  if (!which) return
  const where = { params: { path: { order_id: which.id } } }
  try {
    const call = keep
      ? api.POST('/api/orders/{order_id}/stop', where)
      : api.POST('/api/orders/{order_id}/cancel', where)
    takeNews(job.orders, await answer(call))
  } catch (error) {
    problem.value = wordsFor(error)
  }
}
</script>

<template>
  <StationFrame name="shoot">
    <template #flat>
      <div class="order">
        <h2>{{ many ? 'Order pictures' : 'Order a picture' }}</h2>
        <ShotGrid :ticked="ticked" @open="go" @tick="ticked = $event" />
        <p class="hint">
          {{ job.shots.length > 1 || job.colourways.length ? 'Tick what is wanted; click one to go there. ' : '' }}Size
          and quality of “{{ job.shot!.saved.name }}”:
        </p>
        <fieldset>
          <legend>Size</legend>
          <RadioGroup
            :value="`${purpose.width_px}x${purpose.height_px}`"
            class="sizes"
            @change="
              (e) =>
                edit((p) => {
                  const [w, h] = String(e.target.value).split('x').map(Number)
                  p.width_px = w!
                  p.height_px = h!
                })
            "
          >
            <RadioButton v-for="size in SIZES" :key="size.name" :value="`${size.width}x${size.height}`">{{
              size.name
            }}</RadioButton>
          </RadioGroup>
          <p class="sentence">
            <QuantityInput
              label="Picture width"
              unit="px"
              :value="purpose.width_px"
              :min="64"
              :max="16384"
              :step="20"
              :digits="0"
              @change="(v) => edit((p) => (p.width_px = Math.round(v)))"
            />
            wide,
            <QuantityInput
              label="Picture height"
              unit="px"
              :value="purpose.height_px"
              :min="64"
              :max="16384"
              :step="20"
              :digits="0"
              @change="(v) => edit((p) => (p.height_px = Math.round(v)))"
            />
            high
          </p>
        </fieldset>
        <fieldset>
          <legend>Quality</legend>
          <RadioGroup
            :value="purpose.noise_percent"
            @change="(e) => edit((p) => (p.noise_percent = Number(e.target.value)))"
          >
            <RadioButton v-for="quality in QUALITIES" :key="quality.name" :value="quality.noise">{{
              quality.name
            }}</RadioButton>
          </RadioGroup>
          <span class="hint words">{{ QUALITIES.find((q) => q.noise === purpose.noise_percent)?.words }}</span>
          <p class="sentence">
            It is done at
            <QuantityInput
              label="Noise"
              unit="%"
              :value="purpose.noise_percent ?? 0"
              :min="0"
              :max="100"
              :step="0.5"
              :digits="2"
              @change="(v) => edit((p) => (p.noise_percent = v > 0 ? v : null))"
            />
            noise before cleaning, or at
            <QuantityInput
              label="Samples"
              unit="samples"
              :value="purpose.samples"
              :min="2"
              :max="65536"
              :step="64"
              :digits="0"
              @change="(v) => edit((p) => (p.samples = Math.round(v)))"
            />
            for each point, or after
            <QuantityInput
              label="Longest time"
              unit="min"
              :value="(purpose.seconds ?? 0) / 60"
              :min="0"
              :max="10000"
              :step="5"
              :digits="1"
              @change="(v) => edit((p) => (p.seconds = v > 0 ? v * 60 : null))"
            />, whichever comes first. <span class="hint">0 means no such end.</span>
          </p>
        </fieldset>
        <Button type="primary" size="large" :loading="busy" data-test="shoot" @click="shoot">
          Shoot {{ wanted.length === 1 ? '1 picture' : `${wanted.length} pictures`
          }}{{ seconds ? `, about ${showDuration(seconds)}` : '' }}
        </Button>
        <Button v-if="many" class="alike" size="small" @click="alike">Take them all at this size and quality</Button>
        <p v-if="seconds === null" class="hint">Measuring how fast this machine is …</p>
        <p v-if="problem" class="refused" role="alert">{{ problem }}</p>
        <p v-if="ended?.state === 'failed'" class="refused" role="alert">
          The last picture failed: {{ ended.message }}
        </p>
      </div>
    </template>
    <template #round>
      <div class="developing">
        <template v-if="order">
          <img v-if="preview" :src="preview" alt="The picture so far" data-test="growing" />
          <img v-else-if="proof" :src="proof.address" alt="Proof" />
          <p v-else>The first light is on its way …</p>
        </template>
        <img
          v-else-if="newest && ended?.state === 'done'"
          :src="`/api/pictures/${newest.id}.jpg`"
          alt="The finished picture"
          data-test="finished"
        />
        <img v-else-if="proof" :src="proof.address" alt="Proof" />
        <p v-else>{{ proofProblem || 'Proof coming …' }}</p>
      </div>
    </template>
    <template #slip>
      <template v-if="order">
        <h2>{{ order.state === 'queued' ? 'Waiting its turn' : 'Developing' }}</h2>
        <p class="hint" data-test="developing">{{ nameOf(order) }}</p>
        <Progress
          :percent="Math.min(Math.round(100 * order.progress), 100)"
          stroke-color="#B3324C"
          data-test="progress"
        />
        <p class="sentence">
          <b class="figures" data-test="samples-done">{{ showNumber(order.samples_done) }}</b> samples for each point of
          <b class="figures">{{ order.width }} × {{ order.height }} px</b
          ><template v-if="order.noise"
            >, <b class="figures">{{ showNumber(order.noise, 1) }} %</b> noise<template v-if="order.noise_limit">
              on the way to {{ showNumber(order.noise_limit, 1) }} %</template
            ></template
          >.
          <template v-if="order.remaining_seconds"
            >About <b>{{ showDuration(order.remaining_seconds) }}</b> left.</template
          >
        </p>
        <p v-if="order.waiting" class="caution" role="status" data-test="order-waits">{{ order.waiting }}</p>
        <div class="buttons">
          <Button :disabled="order.wish !== 'go_on' || !order.samples_done" @click="end(true)"
            >Stop now and keep it</Button
          >
          <Button :disabled="order.wish !== 'go_on'" @click="end(false)">Cancel it</Button>
        </div>
        <p v-if="order.wish !== 'go_on'" class="hint">Ending …</p>
        <template v-if="open.length > 1">
          <h3>{{ open.length - 1 }} more {{ open.length === 2 ? 'waits' : 'wait' }}</h3>
          <ul class="queue">
            <li v-for="one in open.filter((o) => o !== order)" :key="one.id">
              <span>{{ nameOf(one) }}</span>
              <button type="button" :aria-label="`Cancel ${nameOf(one)}`" @click="end(false, one)">cancel</button>
            </li>
          </ul>
        </template>
      </template>
      <template v-else-if="newest">
        <h2>Newest picture</h2>
        <p class="sentence">
          <b class="figures">{{ newest.width }} × {{ newest.height }} px</b>,
          <b class="figures">{{ showNumber(newest.samples) }}</b> samples<template v-if="newest.seconds"
            >, taken in <b>{{ showDuration(newest.seconds) }}</b></template
          >.
        </p>
        <p>
          <a class="download" :href="`/api/pictures/${newest.id}.png`" download data-test="download">Download PNG</a>
        </p>
        <p class="hint">16 bits a channel, sRGB. It is also at Show, ready for the client.</p>
        <p v-if="newest.has_passes">
          <a class="passes" :href="`/api/pictures/${newest.id}.exr`" download data-test="passes"
            >Download its passes (EXR)</a
          >
        </p>
        <p v-if="newest.has_passes" class="hint">
          Each light apart, masks of parts and materials, depth in mm, normals and shadow, in one file.
        </p>
      </template>
      <p v-else class="hint">No picture has been taken yet. Choose a size and a quality and shoot.</p>
    </template>
    <template #rule>
      <template v-if="order">
        <span
          >Samples <b>{{ showNumber(order.samples_done) }}</b></span
        >
        <span v-if="order.noise !== null && order.noise !== undefined"
          >Noise <b data-test="order-noise">{{ showNumber(order.noise, 2) }} %</b></span
        >
        <span
          >Elapsed <b>{{ showDuration(order.seconds) }}</b></span
        >
        <span v-if="order.remaining_seconds"
          >Left <b>{{ showDuration(order.remaining_seconds) }}</b></span
        >
      </template>
      <template v-else>
        <span
          >Picture <b>{{ ((purpose.width_px * purpose.height_px) / 1e6).toFixed(2) }} MP</b></span
        >
        <span v-if="seconds"
          >Estimate <b>{{ showDuration(seconds) }}</b></span
        >
      </template>
    </template>
  </StationFrame>
</template>

<style scoped>
.order {
  position: absolute;
  inset: 0;
  overflow-y: auto;
  padding: 22px 26px;
}
.order > * {
  max-width: 460px;
}
fieldset {
  margin: 14px 0 4px;
}
legend {
  font: 600 15px var(--title);
  margin-bottom: 6px;
}
.sizes {
  display: grid;
  grid-template-columns: 1fr 1fr;
}
.sizes :deep(.ant-radio-button-wrapper) {
  border-radius: 0;
}
.developing {
  position: absolute;
  inset: 12px;
  display: grid;
  place-items: center;
}
.developing p {
  background: var(--card);
  padding: 4px 12px;
}
.developing img {
  max-width: 100%;
  max-height: 100%;
  object-fit: contain;
  grid-area: 1 / 1;
  min-width: min(100%, 420px);
}
.alike {
  margin-top: 8px;
}
.queue {
  list-style: none;
  padding: 0;
}
.queue li {
  display: flex;
  justify-content: space-between;
}
.queue button {
  border: 0;
  background: none;
  font: inherit;
  font-size: 12px;
  text-decoration: underline;
  color: #5c5a54;
  cursor: pointer;
}
.words {
  margin-left: 10px;
}
.buttons {
  display: grid;
  gap: 8px;
}
.passes {
  color: #97213a;
}
.download {
  display: inline-block;
  padding: 6px 14px;
  background: var(--ribbon);
  color: #fff;
  text-decoration: none;
}
</style>
