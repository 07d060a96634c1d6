/**
 * Where pictures come from. Frames are counted from 0 in the order of presentation; a source draws exactly the frame it says it drew.
 *
 *   copy for stepping ──▶ decoded frames (WebCodecs) ──▶ canvas
 *                    └──▶ video element (where WebCodecs is absent) ──▶ canvas
 */
export interface FrameSource {
  /** Draw a frame; resolves to the frame that now stands on the canvas. */
  draw(frame: number, canvas: HTMLCanvasElement): Promise<number>
  /** Play from a frame at a speed (1 is real time); `shown` is called after each frame has been drawn. Resolves at the end or when stopped. */
  play(
    from: number,
    speed: number,
    canvas: HTMLCanvasElement,
    shown: (frame: number) => void,
    stop: AbortSignal,
  ): Promise<void>
  close(): void
}

/** Index of the frame on show at a media time: the last whose presentation time is not after it. */
export function frameAt(times: readonly number[], time: number): number {
  let low = 0
  let high = times.length - 1
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if (times[middle]! <= time + 1e-4) low = middle
    else high = middle - 1
  }
  return low
}

/** A time safely inside a frame: asking for its very start lands on the frame before in a third of all cases. */
export function middleOf(times: readonly number[], frame: number): number {
  const start = times[frame]!
  const next = times[frame + 1] ?? start + (start - (times[frame - 1] ?? start - 1 / 30))
  return (start + next) / 2
}

export async function openSource(url: string, times: readonly number[]): Promise<FrameSource> {
  if ('VideoDecoder' in window) {
    try {
      const { DecodedSource } = await import('./decoded')
      return await DecodedSource.open(url, times)
    } catch {
      // A browser may have WebCodecs and yet not this codec; its video element is then asked instead.
    }
  }
  const { ElementSource } = await import('./element')
  return ElementSource.open(url, times)
}
