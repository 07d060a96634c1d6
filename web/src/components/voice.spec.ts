import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { frameThen, lookThen, unsent, useVoice, type Look, type Spoken, type Trail } from './voice'

const shelf = vi.hoisted(() => new Map<string, unknown>())
vi.mock('idb-keyval', () => ({
  set: async (key: string, value: unknown) => void shelf.set(key, value),
  del: async (key: string) => void shelf.delete(key),
  entries: async () => [...shelf],
}))

describe('what stood on the stage', () => {
  const trail: Trail = [
    [0, 60],
    [0.5, 61],
    [2, 90],
  ]
  it.each([
    [0, 60],
    [0.49, 60],
    [0.5, 61],
    [1.9, 61],
    [9, 90],
  ])('at %s s is frame %s', (time, frame) => expect(frameThen(trail, time)).toBe(frame))
  it('is nothing where nothing was kept', () => expect(frameThen([], 1)).toBeNull())
})

const LOOK: Look = { zoom: 1, x: 0.5, y: 0.5, drawn: ['path'] }
describe('how it was looked at', () => {
  const looked = [
    { s: 0, ...LOOK },
    { s: 1, ...LOOK, zoom: 2.5 },
  ]
  it.each([
    [0.99, 1],
    [1, 2.5],
    [9, 2.5],
  ])('at %s s is %s times enlarged', (time, zoom) => expect(lookThen(looked, time)!.zoom).toBe(zoom))
  it('is not known of a note spoken before that was kept', () => expect(lookThen([], 1)).toBeNull())
})

class Recorder {
  static last: Recorder
  state = 'inactive'
  mimeType = 'audio/webm'
  ondataavailable: ((event: { data: Blob }) => void) | null = null
  onstart: (() => void) | null = null
  onstop: (() => void) | null = null
  constructor() {
    Recorder.last = this
  }
  start() {
    this.state = 'recording'
    this.onstart?.()
  }
  stop() {
    this.state = 'inactive'
    this.ondataavailable?.({ data: new Blob(['said']) })
    this.onstop?.()
  }
}

describe('a spoken note', () => {
  const stopped = vi.fn()
  beforeEach(() => {
    shelf.clear()
    vi.stubGlobal('MediaRecorder', Recorder)
    const stream = { getTracks: () => [{ stop: stopped }] }
    vi.stubGlobal('navigator', { mediaDevices: { getUserMedia: vi.fn().mockResolvedValue(stream) } })
  })
  afterEach(() => vi.unstubAllGlobals())

  it('goes out with the frames that were shown, and the microphone is let go', async () => {
    const send = vi.fn().mockResolvedValue(true)
    const voice = useVoice(send)
    voice.see(3)
    await voice.begin('a', 60, LOOK)
    expect(voice.recording.value).toBe(true)
    voice.see(61)
    voice.lookAt({ ...LOOK, zoom: 2 })
    voice.end()
    await vi.waitFor(() => expect(send).toHaveBeenCalledOnce())
    const [{ clip, sound, shown, looked }] = send.mock.calls[0] as [Spoken]
    expect(clip).toBe('a')
    expect(sound.size).toBe(4)
    expect(shown.map(([, frame]) => frame)).toEqual([60, 61])
    expect(shown[1]![0]).toBeGreaterThanOrEqual(0)
    expect(looked!.map(({ zoom, drawn }) => [zoom, drawn])).toEqual([
      [1, ['path']],
      [2, ['path']],
    ])
    expect(stopped).toHaveBeenCalled()
  })
  it('is begun once, however often the key is pressed while the browser asks', async () => {
    const voice = useVoice(vi.fn().mockResolvedValue(true))
    await Promise.all([voice.begin('a', 60, LOOK), voice.begin('a', 60, LOOK)])
    expect(navigator.mediaDevices.getUserMedia).toHaveBeenCalledOnce()
  })
  it('is held while it cannot be sent, and sent again', async () => {
    const send = vi.fn().mockResolvedValueOnce(false).mockResolvedValueOnce(true)
    const voice = useVoice(send)
    await voice.begin('a', 60, LOOK)
    voice.end()
    await vi.waitFor(() => expect(send).toHaveBeenCalledOnce())
    expect(voice.held.value).toHaveLength(1)
    await voice.keep(voice.held.value[0]!)
    expect(voice.held.value).toEqual([])
    expect(shelf.size).toBe(0)
  })
  it('outlives the page and waits at its own clip', async () => {
    const first = useVoice(vi.fn().mockResolvedValue(false))
    await first.begin('a', 60, LOOK)
    first.end()
    await vi.waitFor(() => expect(shelf.size).toBe(1))
    const send = vi.fn().mockResolvedValue(true)
    const later = useVoice(send)
    await later.findHeld('b')
    expect(later.held.value).toEqual([])
    await later.findHeld('a')
    await later.findHeld('a')
    expect(later.held.value.map(({ clip, shown }) => [clip, shown])).toEqual([['a', [[0, 60]]]])
    await later.keep(later.held.value[0]!)
    expect(await unsent.of('a')).toEqual([])
  })
  it('is sent once, however often that is asked for', async () => {
    const send = vi
      .fn()
      .mockResolvedValueOnce(false)
      .mockReturnValueOnce(new Promise(() => undefined))
    const voice = useVoice(send)
    await voice.begin('a', 60, LOOK)
    voice.end()
    await vi.waitFor(() => expect(send).toHaveBeenCalledOnce())
    const [spoken] = voice.held.value
    void voice.keep(spoken!)
    await voice.keep(spoken!)
    expect(send).toHaveBeenCalledTimes(2)
  })
  it('is thrown away only when that is asked for', async () => {
    const voice = useVoice(vi.fn().mockResolvedValue(false))
    await voice.begin('a', 60, LOOK)
    voice.end()
    await vi.waitFor(() => expect(shelf.size).toBe(1))
    await voice.leave(voice.held.value[0]!)
    expect(shelf.size).toBe(0)
  })
  it('says so where no microphone may be used', async () => {
    vi.stubGlobal('navigator', { mediaDevices: { getUserMedia: vi.fn().mockRejectedValue(new Error('no')) } })
    const voice = useVoice(vi.fn())
    await voice.begin('a', 60, LOOK)
    expect(voice.recording.value).toBe(false)
    expect(voice.trouble.value).toContain('allow it for this page')
  })
})
