import { ALL_FORMATS, Input, UrlSource, VideoSampleSink, type VideoSample } from 'mediabunny'
import { frameAt, middleOf, type FrameSource } from './source'

/** Decoded frames kept around the playhead; a 720p frame takes about 1.4 MB. */
const KEPT = 60
/** Frames decoded in one go ahead of the playhead. */
const RUN = 12

interface Asked {
  promise: Promise<VideoSample | null>
  resolve: (sample: VideoSample | null) => void
}

/** Frames decoded by the browser's own codec, kept around the playhead, so that a step costs a draw and nothing more. */
export class DecodedSource implements FrameSource {
  private readonly kept = new Map<number, VideoSample>()
  private readonly asked = new Map<number, Asked>()
  private filling = false
  private last = 0
  private closed = false

  private constructor(
    private readonly input: Input,
    private readonly sink: VideoSampleSink,
    private readonly times: readonly number[],
  ) {}

  static async open(url: string, times: readonly number[]): Promise<DecodedSource> {
    const input = new Input({ source: new UrlSource(url), formats: ALL_FORMATS })
    const track = await input.getPrimaryVideoTrack()
    if (!track || !(await track.canDecode())) throw new Error('this browser cannot decode the copy for stepping')
    return new DecodedSource(input, new VideoSampleSink(track), times)
  }

  async draw(frame: number, canvas: HTMLCanvasElement): Promise<number> {
    const direction = frame >= this.last ? 1 : -1
    // Said before decoding: what lies far from here is forgotten first, and that must not be the frame just asked for.
    this.last = frame
    const sample = await this.sample(frame)
    paint(sample, canvas)
    void this.fillAhead(frame, direction)
    return frameAt(this.times, sample.timestamp)
  }

  async play(
    from: number,
    speed: number,
    canvas: HTMLCanvasElement,
    shown: (frame: number) => void,
    stop: AbortSignal,
  ) {
    const started = performance.now()
    const origin = this.times[from]!
    for await (const sample of this.sink.samples(middleOf(this.times, from))) {
      const frame = frameAt(this.times, sample.timestamp)
      const due = started + ((sample.timestamp - origin) * 1000) / speed
      // Too late by more than a frame: leave it out, so that the speed stays true; the last one is always drawn.
      const late = performance.now() - due > 50 && frame < this.times.length - 1
      if (!late && !stop.aborted) {
        await until(due, stop)
        if (!stop.aborted) {
          paint(sample, canvas)
          shown(frame)
        }
      }
      sample.close()
      if (stop.aborted) return
    }
  }

  close() {
    this.closed = true
    for (const sample of this.kept.values()) sample.close()
    this.kept.clear()
    this.input.dispose()
  }

  private async sample(frame: number): Promise<VideoSample> {
    const held = this.kept.get(frame)
    if (held) return held
    // A run that is under way may be about to deliver it; otherwise it gets a run of its own at once.
    if (!this.asked.has(frame)) await this.decodeRun(frame, frame)
    const pending = this.asked.get(frame)
    const sample = this.kept.get(frame) ?? (pending && (await pending.promise))
    if (!sample) throw new Error(`frame ${frame} is not in the copy for stepping`)
    return sample
  }

  /** Decode frames `from…to` in one go: one decoder for a whole run costs a third of one for each frame. */
  private async decodeRun(from: number, to: number) {
    for (let frame = from; frame <= to; frame++) {
      if (this.kept.has(frame) || this.asked.has(frame)) continue
      let resolve!: Asked['resolve']
      const promise = new Promise<VideoSample | null>((done) => (resolve = done))
      this.asked.set(frame, { promise, resolve })
    }
    try {
      for await (const sample of this.sink.samples(middleOf(this.times, from), middleOf(this.times, to) + 1e-6)) {
        const frame = frameAt(this.times, sample.timestamp)
        if (this.closed || this.kept.has(frame)) sample.close()
        else this.kept.set(frame, sample)
        const held = this.kept.get(frame)
        if (held) this.asked.get(frame)?.resolve(held)
        this.asked.delete(frame)
        if (this.closed) return
      }
    } finally {
      for (let frame = from; frame <= to; frame++) {
        // Whoever still waits for a frame of this run is told that it did not come.
        this.asked.get(frame)?.resolve(null)
        this.asked.delete(frame)
      }
      this.forget(this.last)
    }
  }

  /** Keep the frames in the direction of travel coming, one run at a time. */
  private async fillAhead(frame: number, direction: number) {
    if (this.filling || this.closed) return
    let missing = frame + direction
    while (this.kept.has(missing)) missing += direction
    if (missing < 0 || missing >= this.times.length || Math.abs(missing - frame) > RUN) return
    const far = Math.min(Math.max(missing + direction * (RUN - 1), 0), this.times.length - 1)
    this.filling = true
    try {
      await this.decodeRun(Math.min(missing, far), Math.max(missing, far))
    } catch {
      // What could not be decoded ahead is decoded, and complained about, when it is asked for.
    } finally {
      this.filling = false
    }
  }

  private forget(around: number) {
    if (this.kept.size <= KEPT) return
    const farthest = [...this.kept.keys()].sort((a, b) => Math.abs(b - around) - Math.abs(a - around))
    for (const frame of farthest.slice(0, this.kept.size - KEPT)) {
      this.kept.get(frame)?.close()
      this.kept.delete(frame)
    }
  }
}

function paint(sample: VideoSample, canvas: HTMLCanvasElement) {
  if (canvas.width !== sample.displayWidth) canvas.width = sample.displayWidth
  if (canvas.height !== sample.displayHeight) canvas.height = sample.displayHeight
  sample.draw(canvas.getContext('2d')!, 0, 0)
}

function until(due: number, stop: AbortSignal): Promise<void> {
  return new Promise((resolve) => {
    const look = () => (stop.aborted || performance.now() >= due - 4 ? resolve() : requestAnimationFrame(look))
    look()
  })
}
