import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { opened, pressed } from '@/testing/opened'
import { answers, changes, forget } from '@/testing/server'
import Plan from './Plan.vue'

vi.mock('@/api/client', async () => (await import('@/testing/server')).client)

const slot = (id: number, more = {}) => ({
  id,
  name: 'Hang snatch',
  on: '2026-11-30',
  week: 1,
  light: false,
  test: false,
  sets: 4,
  reps: 3,
  percent: 70,
  total: 55,
  unit: 'kg',
  per_side: [15],
  load: '',
  ...more,
})
const block = (more = {}) => ({
  id: 5,
  fault_name: 'Bar swings out',
  begins: '2026-11-30',
  weeks: [1, 2, 3, 4],
  lift: 'snatch',
  broken: [],
  slots: [slot(1)],
  follow_ups: [],
  closed: false,
  result: null,
  ...more,
})
const plan = (more = {}) => ({
  name: 'Ida Fenn',
  training_days: [0, 3],
  blocks: [],
  link: '',
  link_opened: 0,
  ratios: [],
  ...more,
})

const STUBS = ['AthleteTabs', 'BlockCalendar', 'BeforeAfter', 'DiscsOnBar']
const show = (query = '') => opened(Plan, { id: '3' }, STUBS, query)

describe('the plan', () => {
  beforeEach(() => {
    forget()
    answers.set('/api/athletes/3/plan', plan({ blocks: [block()] }))
  })
  afterEach(() => vi.unstubAllGlobals())

  it('begins a block on the athlete’s own training days, from the review it was come from', async () => {
    answers.set('/api/athletes/3/plan', plan())
    answers.set('POST /api/clips/one/block', () => {
      answers.set('/api/athletes/3/plan', plan({ blocks: [block()] }))
      return {}
    })
    const page = await show('?clip=one')
    await page.get('form').trigger('submit')
    await flushPromises()
    expect(changes()[0]!.body).toMatchObject({ weeks: 4, days: [0, 3] })
    expect(page.text()).toContain('Bar swings out')
  })

  it('without a block and without a review says where one begins', async () => {
    answers.set('/api/athletes/3/plan', plan())
    const page = await show()
    expect(page.get('.empty').text()).toContain('No block is under way.')
    expect(page.get('.empty a').attributes('href')).toBe('/')
  })

  it('says which rule of an exercise a move breaks, and that all are kept when they are', async () => {
    answers.set('PATCH /api/blocks/5/slots/1', (body: object) =>
      block({ slots: [slot(1, body)], broken: [{ says: 'Halting pulls on two days running.' }] }),
    )
    const page = await show()
    expect(page.text()).toContain('The plan keeps every rule of its exercises.')
    await page.getComponent({ name: 'BlockCalendar' }).vm.$emit('move', slot(1), '2026-12-01')
    await flushPromises()
    expect(changes()[0]!.body).toEqual({ on: '2026-12-01' })
    expect(page.get('[data-test=broken]').text()).toBe('Halting pulls on two days running.')
  })

  it('changes the sets of what is chosen, and says why not when the server refuses', async () => {
    answers.set('PATCH /api/blocks/5/slots/1', new Error('More sets than the athlete can do in a week.'))
    const page = await show()
    await page.getComponent({ name: 'BlockCalendar' }).vm.$emit('choose', slot(1))
    await flushPromises()
    await page.get('[data-test=chosen] input').setValue(9)
    await flushPromises()
    expect(changes()[0]!.body).toEqual({ sets: 9 })
    expect(page.get('[role=alert]').text()).toBe('More sets than the athlete can do in a week.')
  })

  it('offers the step a film of the work speaks for first, and says which was taken', async () => {
    const film = {
      clip: 'two',
      name: 'Hang snatch',
      on: '2026-12-02',
      says: 'Passed.',
      rules: [],
      step: 'up',
      taken_up: '',
    }
    answers.set('/api/athletes/3/plan', plan({ blocks: [block({ follow_ups: [film] })] }))
    answers.set('POST /api/clips/two/follows/taken-up', () => {
      answers.set('/api/athletes/3/plan', plan({ blocks: [block({ follow_ups: [{ ...film, taken_up: 'repeat' }] })] }))
      return {}
    })
    const page = await show()
    expect(page.get('.film .btn-primary').text()).toBe('Step up')
    await pressed(page, 'Repeat')
    expect(changes()[0]!.body).toEqual({ step: 'repeat' })
    expect(page.get('.film').text()).toContain('Taken up: repeat.')
  })

  it('says of a result from one lift what is not in it', async () => {
    const result = {
      word: 'changed', says: 'changed', label: 'Loop width', before: 6, after: 2, unit: 'cm', by: 4, sd: 0.8, lifts: [1, 3],
      before_clip: null, after_clip: null, next: 'Go on.', measure: 'loop_width',
    } // prettier-ignore
    answers.set('/api/athletes/3/plan', plan({ blocks: [block({ closed: true, result })] }))
    const page = await show()
    expect(page.get('[data-test=result]').text()).toContain('Told from a single lift')
    expect(
      page
        .get('[data-test=result]')
        .text()
        .replace(/\u00a0/g, ' '),
    ).toContain('better by 4.0 cm ± 1.6 cm')
  })

  it('makes the athlete’s link and says so where the browser does not copy it', async () => {
    answers.set('POST /api/athletes/3/link', () => {
      answers.set('/api/athletes/3/plan', plan({ link: 'abc' }))
      return {}
    })
    vi.stubGlobal('navigator', { clipboard: { writeText: () => Promise.reject(new Error()) } })
    const page = await show()
    await pressed(page, 'Make the link')
    expect(page.get<HTMLInputElement>('[data-test=work-link]').element.value).toMatch(/\/w\/abc$/)
    await pressed(page, 'Copy')
    expect(page.get('[role=alert]').text()).toContain('Select the link and copy it by hand.')
  })
})
