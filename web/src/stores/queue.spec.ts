import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { Clip } from '@/api/client'
import { inTurn, nextInTurn, waitsFor } from './queue'

const clip = (state: string, measured: boolean, reviewed = false) => ({ job: { state }, measured, reviewed }) as Clip

describe('what a clip waits for', () => {
  it('is the worker until something is measured', () => {
    expect(waitsFor(clip('queued', false))).toBe('working')
    expect(waitsFor(clip('running', false))).toBe('working')
  })
  it('is the coach as soon as the bar is measured, though later stages still run', () => {
    expect(waitsFor(clip('running', true))).toBe('look')
  })
  it('is nobody once it was handed over', () => {
    expect(waitsFor(clip('done', true, true))).toBe('handed')
  })
  it('is help when the analysis failed, measured or not', () => {
    expect(waitsFor(clip('failed', false))).toBe('failed')
    expect(waitsFor(clip('failed', true))).toBe('failed')
  })
})

describe('the order in which a coach goes through clips', () => {
  beforeEach(() => void vi.useFakeTimers({ now: new Date('2026-11-23T12:00:00Z') }))
  afterEach(() => vi.useRealTimers())

  const came = (id: string, added_at: string, reviewed = false) =>
    ({ ...clip('done', true, reviewed), id, added_at }) as Clip
  // As the server lists them: the last one first.
  const clips = [
    came('today', '2026-11-23T08:00:00Z'),
    came('yesterday', '2026-11-22T08:00:00Z', true),
    came('late', '2026-11-20T08:00:00Z'),
    came('later', '2026-11-19T08:00:00Z'),
  ]

  it('begins with what has waited too long, the longest first', () => {
    expect(inTurn(clips).map(({ id }) => id)).toEqual(['later', 'late', 'today', 'yesterday'])
  })
  it('goes on from one to the next that waits, past those handed over, and round again', () => {
    expect(nextInTurn(clips, 'later')!.id).toBe('late')
    expect(nextInTurn(clips, 'late')!.id).toBe('today')
    expect(nextInTurn(clips, 'yesterday')!.id).toBe('later')
    expect(nextInTurn(clips, 'today')!.id).toBe('later')
  })
  it('ends where no other clip waits', () => {
    expect(nextInTurn([came('one', '2026-11-23T08:00:00Z')], 'one')).toBeUndefined()
  })
  it('begins at the first from a clip that is not listed', () => {
    expect(nextInTurn(clips, 'gone')!.id).toBe('later')
  })
})
