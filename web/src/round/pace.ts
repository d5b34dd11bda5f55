/** A picture that takes longer is drawn with fewer pixels while it moves, one that takes less with more again. */
const [SLOW_MS, QUICK_MS] = [80, 25]
const [FEWEST, FEWER_AT_ONCE, MORE_AT_ONCE] = [0.4, 0.6, 1.3]
const LOOK_EVERY_MS = 6

/** By how much of its size a picture is drawn next that took so long at this share of it. */
export function shareAfter(share: number, took: number): number {
  if (took > SLOW_MS) return Math.max(share * Math.max(Math.sqrt(SLOW_MS / took), FEWER_AT_ONCE), FEWEST)
  return took < QUICK_MS ? Math.min(share * MORE_AT_ONCE, 1) : share
}

/** Tells how many ms the graphics take from now until all that was asked of them is drawn. */
export function timed(context: WebGL2RenderingContext, tell: (took: number) => void): void {
  const sync = context.fenceSync(context.SYNC_GPU_COMMANDS_COMPLETE, 0)
  if (!sync) return
  const began = performance.now()
  context.flush()
  const look = () => {
    if (context.isContextLost()) return
    if (context.clientWaitSync(sync, 0, 0) === context.TIMEOUT_EXPIRED) return void setTimeout(look, LOOK_EVERY_MS)
    context.deleteSync(sync)
    tell(performance.now() - began)
  }
  setTimeout(look)
}
