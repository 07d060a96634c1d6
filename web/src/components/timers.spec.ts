import { describe, expect, it, vi } from 'vitest'
import { effectScope } from 'vue'
import { left, useClock } from './timers'

describe('a clock', () => {
  it('counts real seconds however seldom it is looked at', () => {
    vi.useFakeTimers()
    let at = 1000
    const scope = effectScope()
    const clock = scope.run(() => useClock(() => at))!
    clock.start()
    at += 2990
    clock.look()
    expect(clock.seconds.value).toBeCloseTo(2.99)
    at += 10
    clock.stop()
    expect(clock.seconds.value).toBe(3)
    at += 5000
    clock.look()
    scope.stop()
    vi.useRealTimers()
  })
})

describe('what is left of a rest', () => {
  it.each([
    [150, '2:30'],
    [59.2, '1:00'],
    [0.4, '0:01'],
    [-3, '0:00'],
  ])('%s s is %s', (seconds, says) => expect(left(seconds)).toBe(says))
})
