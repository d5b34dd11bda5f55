import type { Order, OrderNews } from '@/api/client'

export const isOpen = (order: Pick<Order, 'state'>): boolean => ['queued', 'running'].includes(order.state)

/**
 * Take over what has been heard of an order; false when it is none of these. Answers and news
 * travel by different ways and may pass each other, so what has ended stays ended.
 */
export function takeNews(orders: Order[], news: OrderNews): boolean {
  const order = orders.find((o) => o.id === news.id)
  if (!order) return false
  if (isOpen(order) || !isOpen(news)) Object.assign(order, news)
  return true
}
