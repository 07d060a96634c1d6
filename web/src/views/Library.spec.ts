import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Schemas } from '@/api/client'
import { opened, pressed } from '@/testing/opened'
import { answers, changes, forget } from '@/testing/server'
import Library from './Library.vue'

vi.mock('@/api/client', async () => (await import('@/testing/server')).client)

const exercise = (id: string, name: string, more = {}) => ({
  id,
  name,
  kind: 'technique_drill',
  lifts: ['snatch'],
  how: 'Stand tall and pull with straight arms.',
  cue: 'Long arms.',
  start: 'hip',
  positions: ['hip'],
  equipment: ['bar'],
  answers: { arms_bent_early: 0.8 },
  sets: 4,
  reps: 3,
  pause_s: 0,
  rest_s: 90,
  per_week: 2,
  weeks: 4,
  percent: [50, 70],
  start_percent: 60,
  basis: 'lift',
  load: '',
  cautions: ['Begin light.'],
  before: [],
  passes: [],
  film: 'side',
  muscles: [],
  easier: [],
  harder: [],
  used_by: [],
  contact: false,
  low_back: false,
  hidden: false,
  own: false,
  ships: true,
  ...more,
})
const shelf = (...exercises: object[]) => ({ exercises, ladders: [] }) as unknown as Schemas['Library']
const TALL = exercise('tall_snatch', 'Tall snatch')
const HIP = exercise('hip_snatch', 'Hip snatch', {
  passes: [
    { measure: 'loop_width', at_most: 2, at_least: null },
    { measure: 'loop_width', at_most: null, at_least: -2 },
    { measure: 'elbow', at_most: null, at_least: 165 },
  ],
})

const show = () => opened(Library)
type Page = Awaited<ReturnType<typeof show>>
const chosen = async (page: Page, id: string) => {
  await page.get(`[data-exercise=${id}]`).trigger('click')
}
const kept = async (page: Page) => {
  await page.get('form.detail').trigger('submit')
  await flushPromises()
}
const name = (page: Page) => page.get<HTMLInputElement>('form.detail input')

describe('the library', () => {
  beforeEach(() => {
    forget()
    answers.set('/api/library', shelf(TALL, HIP))
    answers.set('/api/catalogue', {
      faults: [{ id: 'arms_bent_early', name: 'Arms bent early' }],
      measures: [
        { id: 'loop_width', label: 'Loop width', unit: 'cm' },
        { id: 'elbow', label: 'Elbow', unit: '°' },
      ],
    })
    answers.set('PUT /api/library/tall_snatch', (body: object) => shelf({ ...TALL, ...body, own: true }, HIP))
  })

  it('says what an exercise is for, and what a film of it must show, in words', async () => {
    const page = await show()
    await chosen(page, 'hip_snatch')
    const told = page.get('[data-test=exercise]').text()
    expect(told).toContain('best firstArms bent early')
    expect(told).toContain('loop width within 2 cm; elbow at least 165°')
    expect(told).toContain('60 % to begin with, 50 to 70 % of the best in the lift')
  })

  it('changes one exercise, and leaves of it what is not in the form', async () => {
    const page = await show()
    await pressed(page, 'Change')
    await name(page).setValue('Tall snatch, slow')
    await page.get('textarea:not([required])').setValue(' Begin light. \n\n Stop at pain. ')
    await kept(page)
    expect(changes()[0]).toMatchObject({
      path: '/api/library/tall_snatch',
      body: { name: 'Tall snatch, slow', percent: [50, 70], cautions: ['Begin light.', 'Stop at pain.'], film: 'side' },
    })
    expect(page.get('[data-test=exercise]').text()).toContain('Tall snatch, slow')
  })

  it('keeps what is being changed while another exercise is looked at or searched for', async () => {
    const page = await show()
    await pressed(page, 'Change')
    await name(page).setValue('Tall snatch, slow')
    await page.get('[type=search]').setValue('hip_snatch')
    expect(page.get('[data-test=exercise]').text()).toContain('Hip snatch')
    await page.get('[type=search]').setValue('')
    expect(page.get('[data-exercise=tall_snatch]').text()).toContain('not kept yet')
    await chosen(page, 'tall_snatch')
    expect(name(page).element.value).toBe('Tall snatch, slow')
    await kept(page)
    expect(changes()[0]).toMatchObject({ path: '/api/library/tall_snatch', body: { id: 'tall_snatch' } })
  })

  it('does not put another like one in the place of one that is there', async () => {
    const page = await show()
    await pressed(page, 'Make another like it')
    await name(page).setValue('Hip snatch!')
    await kept(page)
    expect(changes()).toEqual([])
    expect(page.get('[role=alert]').text()).toContain('There is an exercise called Hip snatch already.')
    answers.set('PUT /api/library/hip_snatch_two', shelf(TALL, HIP, exercise('hip_snatch_two', 'Hip snatch two')))
    await name(page).setValue('Hip snatch two')
    await kept(page)
    expect(page.find('[role=alert]').exists()).toBe(false)
    expect(page.get('[data-test=exercise] h2').text()).toBe('Hip snatch two')
  })

  it('keeps a change that is refused in its form', async () => {
    answers.set('PUT /api/library/tall_snatch', new Error('The least share is more than the most.'))
    const page = await show()
    await pressed(page, 'Change')
    await name(page).setValue('Tall snatch, slow')
    await kept(page)
    expect(page.get('[role=alert]').text()).toBe('The least share is more than the most.')
    expect(name(page).element.value).toBe('Tall snatch, slow')
  })

  it('puts an exercise away, and shows it again among those put away alone', async () => {
    answers.set('PUT /api/library/tall_snatch/hidden', shelf({ ...TALL, hidden: true }, HIP))
    const page = await show()
    await pressed(page, 'Put away')
    expect(changes()[0]!.body).toEqual({ hidden: true })
    expect(page.find('[data-exercise=tall_snatch]').exists()).toBe(false)
    await page.get('[type=checkbox]').setValue(true)
    expect(page.get('[data-exercise=tall_snatch]').text()).toContain('put away')
  })
})
