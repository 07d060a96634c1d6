import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { Athlete } from '@/api/client'
import { opened, pressed } from '@/testing/opened'
import { answers, changes, forget } from '@/testing/server'
import Athletes from './Athletes.vue'

vi.mock('@/api/client', async () => (await import('@/testing/server')).client)

const athlete = (id: number, name: string, more: Partial<Athlete> = {}) =>
  ({
    id,
    name,
    stature_m: 1.72,
    pain: 0,
    contact_bruise: false,
    clearance: '',
    training_days: [0, 2, 4],
    most_sets: null,
    notes: '',
    bests: [
      { lift: 'snatch', kilos: 80, load: 80, unit: 'kg', on: '2026-09-01' },
      { lift: 'clean', kilos: 100, load: 100, unit: 'kg', on: '2026-09-01' },
    ],
    ...more,
  }) as Athlete

const show = () => opened(Athletes)
type Page = Awaited<ReturnType<typeof show>>
const field = (page: Page, name: string) =>
  page
    .findAll('.card-form label')
    .find((label) => label.text().startsWith(name))!
    .get('input')
const saved = async (page: Page, form: string) => {
  await page.get(form).trigger('submit')
  await flushPromises()
}

describe('athletes', () => {
  beforeEach(() => {
    vi.useFakeTimers({ now: new Date('2026-11-28T12:00:00'), toFake: ['Date'] })
    forget()
    answers.set('/api/athletes', [athlete(1, 'Ida Fenn'), athlete(2, 'Bram Ost')])
    answers.set('/api/rack', { unit: 'kg', bar: 20, collars: 0, pairs: { '20': 2, '10': 1 } })
    answers.set('PATCH /api/athletes/1', {})
    answers.set('POST /api/athletes', {})
    answers.set('PUT /api/rack', {})
  })
  afterEach(() => vi.useRealTimers())

  it('are changed with a comma or a point, and a best that stays keeps its day', async () => {
    const page = await show()
    await pressed(page, 'Change')
    await field(page, 'Stature').setValue('171,5')
    await field(page, 'Snatch').setValue('82.5')
    await saved(page, '.card-form')
    expect(changes()).toHaveLength(1)
    expect(changes()[0]!.body).toMatchObject({
      name: 'Ida Fenn',
      stature_m: 1.715,
      bests: [
        { lift: 'snatch', load: 82.5, unit: 'kg', on: '2026-11-28' },
        { lift: 'clean', kilos: 100, on: '2026-09-01' },
      ],
    })
    expect(page.get('[role=status]').text()).toBe('Saved.')
  })

  it('of a gym that counts in pounds have their bests in pounds, and what is not touched keeps its kilograms', async () => {
    const bests = [
      { lift: 'snatch', kilos: 80, load: 176.4, unit: 'lb', on: '2026-09-01' },
      { lift: 'clean', kilos: 100, load: 220.5, unit: 'lb', on: '2026-09-01' },
    ] as Athlete['bests']
    answers.set('/api/athletes', [athlete(1, 'Ida Fenn', { bests })])
    answers.set('/api/rack', { unit: 'lb', bar: 45, collars: 0, pairs: { '45': 2 } })
    const page = await show()
    expect(page.get('tbody').text()).toContain('176.4')
    await pressed(page, 'Change')
    await field(page, 'Clean').setValue('225')
    await saved(page, '.card-form')
    expect(changes()[0]!.body).toMatchObject({
      bests: [
        { lift: 'snatch', kilos: 80, on: '2026-09-01' },
        { lift: 'clean', load: 225, unit: 'lb', on: '2026-11-28' },
      ],
    })
  })

  it('keep half a centimetre that was entered when something else is changed', async () => {
    answers.set('/api/athletes', [athlete(1, 'Ida Fenn', { stature_m: 1.715 })])
    const page = await show()
    await pressed(page, 'Change')
    await field(page, 'Pain').setValue(2)
    await saved(page, '.card-form')
    expect(changes()[0]!.body).toMatchObject({ stature_m: 1.715, pain: 2 })
  })

  it('lose a best that was entered by mistake when its field is emptied', async () => {
    answers.set('DELETE /api/athletes/1/bests/clean', {})
    const page = await show()
    await pressed(page, 'Change')
    await field(page, 'Clean').setValue('')
    await saved(page, '.card-form')
    expect(changes().map(({ method, path }) => `${method} ${path}`)).toEqual([
      'PATCH /api/athletes/1',
      'DELETE /api/athletes/1/bests/clean',
    ])
  })

  it('keep what is entered of each while another is looked at, and say that it is not saved yet', async () => {
    const page = await show()
    await field(page, 'Name').setValue('Wim Aster')
    await pressed(page, 'Change')
    await field(page, 'Stature').setValue('170')
    await pressed(page, 'Change', 1)
    expect(field(page, 'Name').element.value).toBe('Bram Ost')
    expect(page.findAll('tbody tr')[0]!.text()).toContain('not saved yet')
    await pressed(page, 'Change')
    expect(field(page, 'Stature').element.value).toBe('170')
    await field(page, 'Jerk').setValue('101')
    await field(page, 'Jerk').setValue('')
    await field(page, 'Stature').setValue('172')
    expect(page.findAll('tbody tr')[0]!.text()).not.toContain('not saved yet')
    await field(page, 'Stature').setValue('170')
    await pressed(page, 'Leave')
    expect(page.findAll('tbody tr')[0]!.text()).not.toContain('not saved yet')
    expect(field(page, 'Name').element.value).toBe('Wim Aster')
    expect(changes()).toEqual([])
  })

  it('stay as they were entered when the server refuses them', async () => {
    answers.set('POST /api/athletes', new Error('You already have an athlete called Ida Fenn.'))
    const page = await show()
    await field(page, 'Name').setValue(' Ida Fenn ')
    await saved(page, '.card-form')
    expect(changes()[0]!.body).toMatchObject({ name: 'Ida Fenn', stature_m: null, bests: [] })
    expect(page.get('[role=alert]').text()).toBe('You already have an athlete called Ida Fenn.')
    expect(field(page, 'Name').element.value).toBe(' Ida Fenn ')
  })

  it('with pain or a bruise show it, and what it forbids', async () => {
    answers.set('/api/athletes', [athlete(1, 'Ida Fenn', { pain: 5, contact_bruise: true })])
    const page = await show()
    expect(page.get('tbody').text()).toContain('pain 5 of 10: no drills')
    expect(page.get('tbody').text()).toContain('bruise: no contact')
  })
})

describe('discs on hand', () => {
  beforeEach(() => {
    forget()
    answers.set('/api/athletes', [athlete(1, 'Ida Fenn')])
    answers.set('/api/rack', { unit: 'kg', bar: 20, collars: 0, pairs: { '20': 2, '10': 1 } })
    answers.set('PATCH /api/athletes/1', {})
    answers.set('PUT /api/rack', {})
  })
  const weights = (page: Page) => page.findAll<HTMLInputElement>('[aria-label="Disc weight"]')

  it('of one weight in two rows are counted together, and rows without a weight left out', async () => {
    const page = await show()
    await pressed(page, 'Another disc')
    await pressed(page, 'Another disc')
    await weights(page)[2]!.setValue(20)
    await saved(page, '.rack')
    expect(changes()[0]!.body).toMatchObject({ pairs: { '20': 3, '10': 1 } })
  })

  it('stay as entered while an athlete is saved', async () => {
    const page = await show()
    await weights(page)[0]!.setValue(25)
    await pressed(page, 'Change')
    await saved(page, '.card-form')
    expect(weights(page).map(({ element }) => element.value)).toEqual(['25', '10'])
  })
})
