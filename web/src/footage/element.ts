import { frameAt, middleOf, type FrameSource } from './source'

const TRIES = 4
const WAIT_MS = 1000

/** Frames by way of a hidden video element: slower than decoding them ourselves, and there wherever a browser plays video. */
export class ElementSource implements FrameSource {
  /** Where the video stands with its picture surely presented. Sought there once more it presents nothing, and would be waited for in vain. */
  private standing: { sought: number; media: number } | null = null

  private constructor(
    private readonly video: HTMLVideoElement,
    private readonly times: readonly number[],
  ) {}

  static async open(url: string, times: readonly number[]): Promise<ElementSource> {
    const video = document.createElement('video')
    Object.assign(video, { src: url, muted: true, preload: 'auto', playsInline: true })
    await new Promise<void>((resolve, reject) => {
      video.onloadeddata = () => resolve()
      video.onerror = () => reject(new Error('this browser cannot play the copy for stepping'))
    })
    return new ElementSource(video, times)
  }

  async draw(frame: number, canvas: HTMLCanvasElement): Promise<number> {
    let seen = -1
    for (let attempt = 0; attempt < TRIES && seen !== frame; attempt++) {
      if (attempt) this.standing = null
      seen = frameAt(this.times, this.paint(canvas, await this.seek(middleOf(this.times, frame))))
    }
    return seen
  }

  async play(
    from: number,
    speed: number,
    canvas: HTMLCanvasElement,
    shown: (frame: number) => void,
    stop: AbortSignal,
  ) {
    await this.seek(middleOf(this.times, from))
    if (stop.aborted) return
    this.standing = null
    this.video.playbackRate = Math.max(speed, 1 / 16)
    const started = this.video.play()
    await new Promise<void>((resolve) => {
      const end = () => {
        this.video.pause()
        resolve()
      }
      const next = (_: number, picture: VideoFrameCallbackMetadata) => {
        // A picture may still be on its way when play is stopped; by then somebody may have asked for another frame.
        if (stop.aborted) return
        shown(frameAt(this.times, this.paint(canvas, picture.mediaTime)))
        if (!this.video.ended) this.video.requestVideoFrameCallback(next)
      }
      this.video.requestVideoFrameCallback(next)
      this.video.onended = end
      stop.addEventListener('abort', end)
    })
    // Stopping before the first picture came breaks the promise of playing; that is what was wanted.
    await started.catch((error: unknown) => {
      if (!stop.aborted) throw error
    })
  }

  close() {
    this.video.removeAttribute('src')
    this.video.load()
  }

  /** Seek and wait until the picture is really there; `seeked` alone now and then shows the picture before. */
  private seek(time: number): Promise<number> {
    if (this.standing?.sought === time) return Promise.resolve(this.standing.media)
    this.standing = null
    return new Promise((resolve) => {
      let media = this.video.currentTime
      let presented = false
      let seeked = false
      const done = () => {
        if (!presented || !seeked) return
        clearTimeout(timer)
        this.standing = { sought: time, media }
        resolve(media)
      }
      const timer = setTimeout(() => resolve(media), WAIT_MS)
      this.video.requestVideoFrameCallback((_, picture) => {
        media = picture.mediaTime
        presented = true
        done()
      })
      this.video.addEventListener('seeked', () => ((seeked = true), done()), { once: true })
      this.video.currentTime = time
    })
  }

  /** Draw the picture that the video shows now, said to be of a time; its time. A video may show its next picture before it says so: where
   *  the browser has pictures that know their own time, one of those is drawn. */
  private paint(canvas: HTMLCanvasElement, said: number): number {
    if (canvas.width !== this.video.videoWidth) canvas.width = this.video.videoWidth
    if (canvas.height !== this.video.videoHeight) canvas.height = this.video.videoHeight
    const surface = canvas.getContext('2d', { alpha: false })!
    if (!('VideoFrame' in window)) {
      surface.drawImage(this.video, 0, 0)
      return said
    }
    const picture = new VideoFrame(this.video)
    surface.drawImage(picture, 0, 0)
    const time = picture.timestamp / 1e6
    picture.close()
    return time
  }
}
