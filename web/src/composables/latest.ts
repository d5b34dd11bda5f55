/**
 * Runs an asynchronous job one at a time, for the newest input that waits: what a moving hand passes over meanwhile is
 * left out. What comes of each is told in order, so that what is shown follows the hand; its failures only when nothing
 * newer waits.
 */
export function latest<In, Out>(
  work: (input: In) => Promise<Out>,
  onDone: (result: Out, input: In) => void,
  onError: (error: unknown, input: In) => void,
): (input: In) => void {
  let running = false
  let waiting: { input: In } | null = null
  async function run(input: In): Promise<void> {
    running = true
    try {
      onDone(await work(input), input)
    } catch (error) {
      if (!waiting) onError(error, input)
    }
    running = false
    const next = waiting
    waiting = null
    if (next) void run(next.input)
  }
  return (input) => {
    if (running) waiting = { input }
    else void run(input)
  }
}
