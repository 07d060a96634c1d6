import { flushPromises, mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { defineComponent, h, ref } from 'vue'
import type { FrameSource } from './source'

const times = Array.from({ length: 50 }, (_, n) => n / 30)
let drawn: number[] = []
let release: (() => void)[] = []
const source: FrameSource = {
  draw: (frame) =>
    new Promise((resolve) => {
      release.push(() => {
        drawn.push(frame)
        resolve(frame)
      })
    }),
  play: async (from, _speed, _canvas, shown, stop) => {
    for (let frame = from; frame < times.length && !stop.aborted; frame++) {
      shown(frame)
      await Promise.resolve()
    }
  },
  close: () => undefined,
}
vi.mock('./source', async (original) => ({
  ...(await original<typeof import('./source')>()),
  openSource: async () => source,
}))
const { useFootage } = await import('./useFootage')

async function letGo() {
  await flushPromises()
  while (release.length) {
    release.shift()!()
    await flushPromises()
  }
}

async function opened() {
  drawn = []
  release = []
  let footage!: ReturnType<typeof useFootage>
  const component = defineComponent(() => {
    const canvas = ref(document.createElement('canvas'))
    footage = useFootage(canvas, ref('/clip.mp4'), ref(times))
    return () => h('div')
  })
  const wrapper = mount(component)
  await letGo()
  return { footage, wrapper }
}

describe('the footage', () => {
  it('says a frame only after it has been drawn', async () => {
    const { footage } = await opened()
    void footage.go(7)
    await flushPromises()
    expect(footage.shown.value).toBe(0)
    await letGo()
    expect(footage.shown.value).toBe(7)
  })
  it('keeps only the newest wish while a drawing is under way, and swallows no step', async () => {
    const { footage } = await opened()
    for (let press = 0; press < 10; press++) void footage.step(1)
    await letGo()
    expect(footage.shown.value).toBe(10)
    expect(drawn.length).toBeLessThan(6)
  })
  it('stays within the clip', async () => {
    const { footage } = await opened()
    void footage.go(900)
    await letGo()
    expect(footage.shown.value).toBe(49)
    void footage.step(-200)
    await letGo()
    expect(footage.shown.value).toBe(0)
  })
  it('plays to the end and from the beginning again', async () => {
    const { footage } = await opened()
    void footage.play(1)
    await letGo()
    expect(footage.shown.value).toBe(49)
    expect(footage.playing.value).toBe(false)
    void footage.play(1)
    expect(footage.shown.value).toBe(0)
    void footage.pause()
    await letGo()
    expect(footage.playing.value).toBe(false)
  })
  it('has stopped only when the frame it says has been drawn by itself', async () => {
    const { footage } = await opened()
    void footage.play(1)
    await Promise.resolve()
    const stopped = footage.pause()
    await flushPromises()
    expect([footage.playing.value, drawn]).toEqual([true, [0]])
    await letGo()
    await stopped
    expect([footage.playing.value, drawn]).toEqual([false, [0, footage.shown.value]])
  })
  it('goes where it is told while it plays, and is stopped then', async () => {
    const { footage } = await opened()
    void footage.play(1)
    void footage.go(31)
    await letGo()
    expect([footage.playing.value, footage.shown.value, drawn.at(-1)]).toEqual([false, 31, 31])
  })
  it('plays a stretch over and over until it is stopped', async () => {
    const { footage } = await opened()
    const seen: number[] = []
    const loop = footage.play(0.5, [10, 13])
    for (let n = 0; n < 40; n++) {
      seen.push(footage.shown.value)
      await Promise.resolve()
    }
    void footage.pause()
    await letGo()
    await loop
    expect(seen.filter((frame) => frame === 10).length).toBeGreaterThan(1)
    expect(Math.max(...seen)).toBe(13)
    expect(Math.min(...seen)).toBe(10)
    expect(footage.playing.value).toBe(false)
  })
  it('plays a stretch of one frame as none, and comes to an end', async () => {
    const { footage } = await opened()
    const last = times.length - 1
    void footage.go(last)
    await letGo()
    void footage.play(1, [last, last])
    await new Promise((done) => setTimeout(done))
    await letGo()
    expect([footage.playing.value, footage.shown.value]).toEqual([false, last])
  })
})
