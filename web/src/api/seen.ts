/**
 * By clip, the turn of the last change of it that was seen here. It goes along with every change, so that the server refuses one that
 * would undo a later one unseen.
 */
const last = new Map<string, number>()

export function saw(clip: string, changes: { turn: number }[]) {
  last.set(clip, Math.max(last.get(clip) ?? 0, ...changes.map(({ turn }) => turn)))
}
export function seenOf(address: string): number | undefined {
  const clip = /\/api\/clips\/([^/]+)\//.exec(address)?.[1]
  return clip === undefined ? undefined : last.get(clip)
}
