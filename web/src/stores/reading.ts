import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'

import { asRefusalOf, NO_ANSWER, type ReadModel, token } from '@/api/client'

/** What a model is sent as. */
export const MODEL_FILES = '.glb,.gltf,.bin,.obj,.mtl,.ply,.stl,.3mf,.step,.stp,.zip,.png,.jpg,.jpeg'

/** A model on its way in: how far it is, and what came of it. */
export const useReading = defineStore('reading', () => {
  /** Names of the files; none while nothing is read. */
  const files = ref<string[]>([])
  /** Share of the bytes that have arrived. */
  const sent = ref(0)
  const read = shallowRef<ReadModel | null>(null)
  const problem = ref('')
  let request: XMLHttpRequest | null = null

  /** Send a model, or it and the files that it needs. */
  function bring(slug: string, chosen: readonly File[], chord?: number): void {
    if (!chosen.length) return
    leave()
    files.value = chosen.map((file) => file.name)
    const body = new FormData()
    for (const file of chosen) body.append('file', file)
    const own = (request = new XMLHttpRequest())
    own.open('POST', `/api/jobs/${slug}/models/read${chord ? `?chord=${chord}` : ''}`)
    own.setRequestHeader('X-CSRFToken', token())
    own.upload.onprogress = (event) => (sent.value = event.total ? event.loaded / event.total : 0)
    own.onerror = () => (problem.value = NO_ANSWER)
    own.onload = () => {
      const said: unknown = parsed(own.responseText)
      if (own.status === 200) read.value = said as ReadModel
      else problem.value = asRefusalOf(said, own.status).message
    }
    own.send(body)
  }
  /** Put it away, or stop reading it. */
  function leave(): void {
    request?.abort()
    request = null
    files.value = []
    sent.value = 0
    read.value = null
    problem.value = ''
  }
  return { files, sent, read, problem, bring, leave }
})

function parsed(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return null
  }
}
