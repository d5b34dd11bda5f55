import type { Material } from '@/api/client'

type Of<K extends Material['kind']> = Extract<Material, { kind: K }>
type Said<M, Rest extends keyof M> = Omit<M, 'kind' | Rest> & Partial<Pick<M, Rest>>

/** Materials by what is worth saying of them; nothing else is done to them. */
export const clear = (said: Said<Of<'clear'>, 'frost' | 'frosted'>): Of<'clear'> => ({
  kind: 'clear',
  frost: 0,
  frosted: 'both',
  ...said,
})
export const opaque = (said: Said<Of<'opaque'>, 'sheen' | 'passes'>): Of<'opaque'> => ({
  kind: 'opaque',
  sheen: 0,
  passes: 0,
  ...said,
})
export const metal = (said: Said<Of<'metal'>, 'lacquer' | 'tint'>): Of<'metal'> => ({
  kind: 'metal',
  tint: '#ffffff',
  lacquer: 0,
  ...said,
})
