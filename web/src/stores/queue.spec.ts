import { describe, expect, it } from 'vitest'
import type { Clip } from '@/api/client'
import { waitsFor } from './queue'

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
