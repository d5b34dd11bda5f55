/** Runs an asynchronous job for the newest input only: one at a time, the newest waiting. */
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
      const result = await work(input)
      if (!waiting) onDone(result, input)
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
