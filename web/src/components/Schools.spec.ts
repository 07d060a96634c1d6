import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import Schools from './Schools.vue'
import { changedVerdicts } from './verdicts'
import type { Finding } from '@/api/client'

const SCHOOLS = [
  {
    id: 'contact',
    asks: 'Contact',
    why: 'A strike bruises.',
    positions: [
      { id: 'brush', says: 'Brush upward' },
      { id: 'strike', says: 'Active strike of the hips' },
    ],
    position: 'brush',
    everyone: null,
    at: null,
  },
]
const show = (props = {}) =>
  mount(Schools, { props: { schools: SCHOOLS, athlete: 'Ida Fenn', changed: null, saving: false, ...props } })

describe('schools', () => {
  it('give the reason for the usual answer and take another for one athlete or for all', async () => {
    const page = show()
    expect(page.text()).toContain('Why the usual one: A strike bruises.')
    await page.get('select').setValue('strike')
    await page.findAll('input[type=radio]')[1]!.setValue(true)
    await page.get('select').setValue('strike')
    expect(page.emitted('take')).toEqual([
      ['contact', 'strike', false],
      ['contact', 'strike', true],
    ])
  })
  it('say whose answer it is and let it be taken back', async () => {
    const page = show({ schools: [{ ...SCHOOLS[0]!, position: 'strike', everyone: false }] })
    expect(page.text()).toContain('Set by you for Ida Fenn.')
    await page.get('[data-leave=contact]').trigger('click')
    expect(page.emitted('leave')).toEqual([['contact']])
  })
  it('tell what the last answer changed, or that it changed nothing', () => {
    expect(show({ changed: [] }).text()).toContain('Nothing changes on the open lift.')
    expect(
      show({ changed: ['Bar looped: fault → watch'] })
        .get('[data-test=changed]')
        .text(),
    ).toContain('fault → watch')
  })
})

describe('changed verdicts', () => {
  const row = (fault: string, level: string, cue = 'Up.') => ({ fault, name: fault, level, cue }) as Finding
  it('are new levels, rules that came or went, and other cues of what stands', () => {
    const before = [row('loops', 'fault'), row('yanked', 'watch'), row('leans', 'fine', 'Tall.'), row('early', 'fault')]
    const after = [
      row('loops', 'watch'),
      row('leans', 'fine', 'Back.'),
      row('late', 'fine'),
      row('early', 'fault', 'Wait.'),
    ]
    expect(changedVerdicts(before, after)).toEqual([
      'loops: fault → watch',
      'late: not judged → fine',
      'early: “Wait.” is the cue now',
      'yanked: watch → not judged',
    ])
  })
})
