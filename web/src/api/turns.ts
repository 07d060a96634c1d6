/** Asks one thing of the server at a time, in the order they were asked for: what comes later builds on what came before. */
export function turns() {
  let before: Promise<unknown> = Promise.resolve()
  return <T>(work: () => Promise<T>): Promise<T> => {
    const mine = before.then(work)
    before = mine.catch(() => undefined)
    return mine
  }
}
