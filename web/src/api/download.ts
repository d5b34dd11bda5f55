import { send } from './client'

const KEPT_MS = 5000

/** Have the studio make a file, of what is sent if anything is, and lay it where downloads go. */
export async function download(address: string, name: string, body?: unknown): Promise<void> {
  const post = { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) }
  const response = await send(address, body === undefined ? {} : post)
  const link = document.createElement('a')
  link.href = URL.createObjectURL(await response.blob())
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), KEPT_MS)
}
