import { ALL_FORMATS, EncodedPacketSink, Input, UrlSource } from 'mediabunny'
import { frameAt, middleOf, type FrameSource } from './source'

/** Decoded frames kept around the playhead; a 720p frame takes about 1.4 MB. */
const KEPT = 60
/** Frames asked of the decoder beyond the one on show, in the direction of travel, the nearest first. */
const AHEAD = 10
/** A decoder may hold its last picture back until it is told that no more comes. */
const HELD_BACK_MS = 40
/** A picture later than this is left out while playing, so that the speed stays true. */
const LATE_MS = 50

interface Asked {
  promise: Promise<VideoFrame>
  resolve: (picture: VideoFrame) => void
  reject: (reason: Error) => void
}

/**
 * Frames decoded by the browser's own codec, kept around the playhead, so that a step costs a draw and little more. Every frame of the
 * copy for stepping stands by itself, so one decoder takes them in whatever order they are wanted, backwards as quickly as forwards.
 */
export class DecodedSource implements FrameSource {
  private readonly kept = new Map<number, VideoFrame>()
  private readonly asked = new Map<number, Asked>()
  private readonly decoder: VideoDecoder
  private last = 0

  private constructor(
    private readonly input: Input,
    private readonly packets: EncodedPacketSink,
    config: VideoDecoderConfig,
    private readonly times: readonly number[],
  ) {
    this.decoder = new VideoDecoder({
      output: (picture) => this.take(picture),
      error: (error) => this.giveUp(error),
    })
    this.decoder.configure(config)
  }

  static async open(url: string, times: readonly number[]): Promise<DecodedSource> {
    const input = new Input({ source: new UrlSource(url), formats: ALL_FORMATS })
    const track = await input.getPrimaryVideoTrack()
    const told = await track?.getDecoderConfig()
    // Software: decoders in hardware lend out only a few pictures at a time, and here many are kept.
    const config = told && { ...told, optimizeForLatency: true, hardwareAcceleration: 'prefer-software' as const }
    if (!track || !config || !(await VideoDecoder.isConfigSupported(config)).supported)
      throw new Error('this browser cannot decode the copy for stepping')
    return new DecodedSource(input, new EncodedPacketSink(track), config, times)
  }

  async draw(frame: number, canvas: HTMLCanvasElement): Promise<number> {
    const direction = frame >= this.last ? 1 : -1
    // Said before decoding: what lies far from here is forgotten first, and that must not be the frame just asked for.
    this.last = frame
    const picture = this.picture(frame)
    this.lookAhead(frame, direction)
    paint(await picture, canvas)
    return frame
  }

  async play(
    from: number,
    speed: number,
    canvas: HTMLCanvasElement,
    shown: (frame: number) => void,
    stop: AbortSignal,
  ) {
    const end = this.times.length - 1
    const started = performance.now()
    const due = (frame: number) => started + ((this.times[frame]! - this.times[from]!) * 1000) / speed
    for (let frame = from; frame <= end; frame++) {
      while (frame < end && performance.now() - due(frame) > LATE_MS) frame++
      this.last = frame
      const picture = this.picture(frame)
      this.lookAhead(frame, 1)
      await picture
      await until(due(frame), stop)
      if (stop.aborted) return
      paint(await this.picture(frame), canvas)
      shown(frame)
    }
  }

  close() {
    if (this.decoder.state !== 'closed') this.decoder.close()
    this.giveUp(new Error('the footage was closed'))
    for (const picture of this.kept.values()) picture.close()
    this.kept.clear()
    this.input.dispose()
  }

  private picture(frame: number): Promise<VideoFrame> {
    const held = this.kept.get(frame)
    if (held) return Promise.resolve(held)
    const promise = this.request(frame)
    const timer = setTimeout(() => void this.flush(), HELD_BACK_MS)
    return promise.finally(() => clearTimeout(timer))
  }

  /** Ask the decoder for a frame; whoever asks for one that is on its way already gets the same promise. */
  private request(frame: number): Promise<VideoFrame> {
    const before = this.asked.get(frame)
    if (before) return before.promise
    const { promise, resolve, reject } = deferred<VideoFrame>()
    this.asked.set(frame, { promise, resolve, reject })
    // Nobody may be waiting for a frame that was asked for ahead.
    promise.catch(() => undefined)
    void this.feed(frame).catch((error: unknown) => {
      this.asked.delete(frame)
      reject(error as Error)
    })
    return promise
  }

  private async feed(frame: number) {
    const packet = await this.packets.getPacket(middleOf(this.times, frame))
    if (this.decoder.state !== 'configured') throw new Error('the footage was closed')
    if (!packet || frameAt(this.times, packet.timestamp) !== frame)
      throw new Error(`frame ${frame} is not in the copy for stepping`)
    this.decoder.decode(packet.toEncodedVideoChunk())
  }

  private async flush() {
    if (this.decoder.state === 'configured') await this.decoder.flush().catch(() => undefined)
  }

  private take(picture: VideoFrame) {
    const frame = frameAt(this.times, picture.timestamp / 1e6)
    this.kept.get(frame)?.close()
    this.kept.set(frame, picture)
    this.asked.get(frame)?.resolve(picture)
    this.asked.delete(frame)
    this.forget()
  }

  private giveUp(reason: Error) {
    for (const { reject } of this.asked.values()) reject(reason)
    this.asked.clear()
  }

  private lookAhead(frame: number, direction: number) {
    for (let n = 1; n <= AHEAD; n++) {
      const next = frame + n * direction
      if (next >= 0 && next < this.times.length && !this.kept.has(next)) void this.request(next)
    }
  }

  private forget() {
    if (this.kept.size <= KEPT) return
    const away = (frame: number) => Math.abs(frame - this.last)
    const farthest = [...this.kept.keys()].reduce((far, frame) => (away(frame) > away(far) ? frame : far))
    this.kept.get(farthest)?.close()
    this.kept.delete(farthest)
  }
}

function paint(picture: VideoFrame, canvas: HTMLCanvasElement) {
  if (canvas.width !== picture.displayWidth) canvas.width = picture.displayWidth
  if (canvas.height !== picture.displayHeight) canvas.height = picture.displayHeight
  canvas.getContext('2d', { alpha: false })!.drawImage(picture, 0, 0)
}

function deferred<T>() {
  let resolve!: (value: T) => void
  let reject!: (reason: Error) => void
  const promise = new Promise<T>((yes, no) => ((resolve = yes), (reject = no)))
  return { promise, resolve, reject }
}

function until(due: number, stop: AbortSignal): Promise<void> {
  return new Promise((resolve) => {
    const look = () => (stop.aborted || performance.now() >= due - 4 ? resolve() : requestAnimationFrame(look))
    look()
  })
}
