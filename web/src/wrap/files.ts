import { ref } from 'vue'

import { type Artwork, send, wordsFor } from '@/api/client'
import { useJob } from '@/stores/job'
import { show } from './versions'

/** A place on a panel, mm. */
type At = { x: number; y: number }

/** Files that come to a panel: new artwork, which is laid, and newer versions of what lies there. */
export function useFiles(lay: (artwork: Artwork, at?: At) => void, locked: () => boolean) {
  const job = useJob()
  const uploading = ref('')
  const problem = ref('')
  const notes = ref<string[]>([])

  async function upload(chosen: File): Promise<Artwork | null> {
    uploading.value = chosen.name
    try {
      const body = new FormData()
      body.append('file', chosen)
      const response = await send(`/api/jobs/${job.slug}/artwork`, { method: 'POST', body })
      const artwork = (await response.json()) as Artwork
      await job.loadArtwork()
      notes.value.push(...artwork.notes)
      return artwork
    } catch (error) {
      problem.value = wordsFor(error)
      return null
    } finally {
      uploading.value = ''
    }
  }

  async function addFiles(files: FileList | null, at?: At): Promise<void> {
    problem.value = ''
    notes.value = []
    if (locked()) {
      problem.value = 'This label is locked: unlock it to print something else on it.'
      return
    }
    for (const chosen of [...(files ?? [])]) {
      const artwork = await upload(chosen)
      if (artwork) lay(artwork, at)
    }
  }

  /** A newer file takes an artwork's place everywhere in the job; the older ones stay. */
  async function addVersion(named: string, chosen: File): Promise<void> {
    problem.value = ''
    notes.value = []
    const artwork = await upload(chosen)
    if (artwork) showVersion(named, artwork.sha256)
  }
  const showVersion = (named: string, sha256: string) => job.paletteDraft?.edit((d) => show(d, named, sha256))

  return { uploading, problem, notes, addFiles, addVersion, showVersion }
}
