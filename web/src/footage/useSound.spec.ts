import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick, ref } from 'vue'
import { useSound } from './useSound'

/** What the page asked its audio element to do. */
class Heard {
  static all: Heard[] = []
  currentTime = 0
  playbackRate = 1
  paused = true
  onerror: (() => void) | null = null
  constructor(public url: string) {
    Heard.all.push(this)
  }
  async play() {
    this.paused = false
  }
  pause() {
    this.paused = true
  }
}

function bench() {
  const [url, times, shown] = [ref('/one'), ref<number[] | null>([0, 0.1, 0.2, 0.3, 0.4, 0.5]), ref(2)]
  const [playing, speed] = [ref(false), ref(1)]
  let sound!: ReturnType<typeof useSound>
  const page = mount({ setup: () => ((sound = useSound(url, times, shown, playing, speed)), () => null) })
  return { url, shown, playing, speed, sound, page }
}

describe('the clip’s sound', () => {
  beforeEach(() => {
    Heard.all = []
    vi.stubGlobal('Audio', Heard)
  })
  afterEach(() => vi.unstubAllGlobals())

  it('is silent until it is asked for', async () => {
    const { playing } = bench()
    playing.value = true
    await nextTick()
    expect(Heard.all).toHaveLength(0)
  })
  it('plays from where the picture is, as fast as the picture, and stops with it', async () => {
    const { playing, speed, sound } = bench()
    sound.on.value = playing.value = true
    speed.value = 0.5
    await nextTick()
    const audio = Heard.all[0]!
    expect([audio.url, audio.currentTime, audio.playbackRate, audio.paused]).toEqual(['/one', 0.2, 0.5, false])
    playing.value = false
    await nextTick()
    expect(audio.paused).toBe(true)
  })
  it('is put back to the picture only when it has run away from it', async () => {
    const { playing, shown, sound } = bench()
    sound.on.value = playing.value = true
    await nextTick()
    const audio = Heard.all[0]!
    audio.currentTime = 0.28
    shown.value = 3
    await nextTick()
    expect(audio.currentTime).toBe(0.28)
    shown.value = 5
    await nextTick()
    expect(audio.currentTime).toBe(0.5)
  })
  it('is silent where it would only be noise', async () => {
    const { playing, speed, sound } = bench()
    speed.value = 1 / 16
    sound.on.value = playing.value = true
    await nextTick()
    expect(Heard.all).toHaveLength(0)
  })
  it('says so when there is none, and goes off', async () => {
    const { playing, sound } = bench()
    sound.on.value = playing.value = true
    await nextTick()
    Heard.all[0]!.onerror!()
    expect(sound.trouble.value).toBe('This clip has no sound that can be played.')
    expect(sound.on.value).toBe(false)
  })
  it('ends with the clip and with the page', async () => {
    const { playing, sound, url, page } = bench()
    sound.on.value = playing.value = true
    await nextTick()
    url.value = '/two'
    await nextTick()
    expect(Heard.all[0]!.paused).toBe(true)
    expect(sound.on.value).toBe(false)
    sound.on.value = true
    await nextTick()
    page.unmount()
    expect(Heard.all[1]!.paused).toBe(true)
  })
})
