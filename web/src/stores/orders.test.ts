import { describe, expect, it } from 'vitest'

import type { Order } from '@/api/client'
import { takeNews } from './orders'

const order = (state: string, wish = 'go_on') => ({ id: 7, state, wish }) as Order

describe('news of an order', () => {
  it('is taken over', () => {
    const orders = [order('queued')]
    expect(takeNews(orders, order('running'))).toBe(true)
    expect(orders[0]!.state).toBe('running')
  })
  it('does not reopen what has ended when an older answer comes late', () => {
    const orders = [order('queued')]
    takeNews(orders, order('cancelled', 'cancel'))
    takeNews(orders, order('running', 'cancel'))
    expect(orders[0]!.state).toBe('cancelled')
  })
  it('is refused for an order nobody knows', () => {
    expect(takeNews([], order('running'))).toBe(false)
  })
})
