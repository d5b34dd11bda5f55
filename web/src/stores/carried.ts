import { defineStore } from 'pinia'
import { shallowRef } from 'vue'

import type { Closure, Label, Made } from '@/api/client'

interface Carried<T> {
  what: T
  /** Name of the pack it is from. */
  from: string
}

/** What has been taken from one pack to be put on another. */
export const useCarried = defineStore('carried', () => ({
  material: shallowRef<Carried<Made> | null>(null),
  closure: shallowRef<Carried<Closure> | null>(null),
  label: shallowRef<Carried<Label> | null>(null),
}))
