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
  assignment: 9,
  paused: '',
  stops: false,
  done: false,
  ...more,
})
const block = (more = {}) => ({
  id: 5,
  fault_name: 'Bar swings out',
  begins: '2026-11-30',
  weeks: [1, 2, 3, 4],
  days: [0, 3],
  clip: 'one',
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

  it('says why a session is paused, and lets it go on with the coach’s reason', async () => {
    const waits = 'Bruise where the bar meets the body: rest the contact.'
    answers.set('/api/athletes/3/plan', plan({ blocks: [block({ slots: [slot(1, { paused: waits })] })] }))
    answers.set('POST /api/assignments/9/excuses', () => {
      answers.set('/api/athletes/3/plan', plan({ blocks: [block()] }))
      return {}
    })
    const page = await show()
    expect(page.get('[data-test=paused]').text()).toContain(waits)
    await page.getComponent({ name: 'BlockCalendar' }).vm.$emit('choose', slot(1))
    await flushPromises()
    await page.get('[data-test=paused-slot] input').setValue('Healed, seen today.')
    await page.get('[data-test=paused-slot] form').trigger('submit')
    await flushPromises()
    expect(changes()[0]!.body).toEqual({ words: 'Healed, seen today.' })
    expect(page.find('[data-test=paused]').exists()).toBe(false)
  })

  it('lets no session go on despite pain', async () => {
    const waits = slot(1, { paused: 'Pain of 4 out of 10 or more was reported.', stops: true })
    answers.set('/api/athletes/3/plan', plan({ blocks: [block({ slots: [waits] })] }))
    const page = await show()
    await page.getComponent({ name: 'BlockCalendar' }).vm.$emit('choose', waits)
    await flushPromises()
    expect(page.get('[data-test=paused-slot]').find('form').exists()).toBe(false)
  })

  it('changes a dose and a block afterwards', async () => {
    answers.set('PATCH /api/clips/one/assignments/9', {})
    answers.set('PATCH /api/blocks/5', {})
    const page = await show()
    await page.getComponent({ name: 'BlockCalendar' }).vm.$emit('choose', slot(1))
    await flushPromises()
    await pressed(page, '5 % lighter')
    await page.get('[data-test=reshape] select').setValue('5')
    await page.findAll('[data-test=reshape] input[type=checkbox]')[3]!.setValue(false)
    await flushPromises()
    expect(changes().map(({ body }) => body)).toEqual([{ by: -5 }, { weeks: 5 }, { days: [0] }])
  })

  it('has room for two blocks, and says what of a result cannot be compared', async () => {
    const result = {
      word: 'not_comparable', says: 'not comparable yet: film 76 kg again', label: 'Loop', before: null, after: null, unit: 'cm',
      by: null, sd: null, lifts: [1, 1], before_clip: null, after_clip: null, next: 'Film it again.', measure: 'loop_out',
    } // prettier-ignore
    const two = [block(), block({ id: 6, fault_name: 'Dip too deep', result })]
    answers.set('/api/athletes/3/plan', plan({ blocks: two }))
    const page = await show()
    await pressed(page, 'Dip too deep')
    expect(page.get('.block h2').text()).toBe('Dip too deep')
    expect(page.get('[data-test=result]').text()).toContain('Not comparable yet: film 76 kg again')
    expect(page.get('[data-test=result]').text()).not.toContain('±')
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
