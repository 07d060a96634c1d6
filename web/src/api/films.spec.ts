import { afterEach, describe, expect, it, vi } from 'vitest'
import { made } from './films'

afterEach(() => vi.unstubAllGlobals())

describe('a film that is asked for', () => {
  it('is waited for while the server makes it', async () => {
    vi.useFakeTimers()
    const answers = [202, 202, 206]
    const asked = vi.fn(async () => new Response('{}', { status: answers.shift() }))
    vi.stubGlobal('fetch', asked)
    const done = made('/api/clips/one/drawn.mp4')
    await vi.runAllTimersAsync()
    await done
    expect(asked).toHaveBeenCalledTimes(3)
    vi.useRealTimers()
  })

  it('that cannot be made is refused in the server’s words', async () => {
    vi.stubGlobal(
      'fetch',
      async () => new Response('{"detail": "No such lift was measured in this clip."}', { status: 404 }),
    )
    await expect(made('/api/clips/one/drawn.mp4?lift=7')).rejects.toThrow('No such lift was measured in this clip.')
  })
})
