import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { opened } from '@/testing/opened'
import { answers, changes, forget } from '@/testing/server'
import Log from './Log.vue'

vi.mock('@/api/client', async () => (await import('@/testing/server')).client)

const set = (more = {}) => ({ load: 60, unit: 'kg', reps: 3, missed: 0, rpe: null, hook: false, ...more })
const pain = { key: 'k1', kind: 'pain', site: 'knee', degree: 5, since: '2026-11-20', until: null, note: '' }
const log = (more = {}) => ({
  done: [],
  reports: [],
  said: [],
  days: [],
  bands: [],
  bests: [],
  weeks: [],
  planned_days: 0,
  kept_days: 0,
  ...more,
})
const show = () => opened(Log, { id: '4' }, ['AthleteTabs'])

describe('the log', () => {
  beforeEach(() => {
    forget()
    answers.set('/api/athletes/4/log', log())
    answers.set('/api/athletes/4/plan', { name: 'Ida Fenn' })
  })

  it('tells sets that were alike together, and every other by what is different', async () => {
    answers.set(
      '/api/athletes/4/log',
      log({
        done: [
          {
            id: 1,
            on: '2026-11-20',
            name: 'Hang snatch',
            note: 'calm',
            sets: [set(), set(), set({ missed: 1 }), set({ load: null, reps: 5, rpe: 8, hook: true })],
          },
        ],
      }),
    )
    const page = await show()
    expect(
      page
        .get('tbody tr')
        .text()
        .replace(/\u00a0/g, ' '),
    ).toContain('2 × 3 at 60 kg · 1 × 3 at 60 kg, 1 missed · 1 × 5, RPE 8, hook kept')
  })

  it('says how many exercises of a table came in', async () => {
    answers.set('POST /api/athletes/4/log/read-in', { read: 2 })
    const page = await show()
    const input = page.get<HTMLInputElement>('input[type=file]')
    Object.defineProperty(input.element, 'files', { value: [new File(['date,exercise'], 'log.csv')] })
    await input.trigger('change')
    await vi.waitFor(() => expect(page.find('[role=status]').exists()).toBe(true))
    expect(changes()[0]).toMatchObject({ path: '/api/athletes/4/log/read-in', body: { text: 'date,exercise' } })
    expect(page.get('[role=status]').text()).toBe('2 exercises came in; what was there already was left out.')
  })

  it('says what is wrong with a table', async () => {
    answers.set('POST /api/athletes/4/log/read-in', new Error('Line 2: the date is not a date.'))
    const page = await show()
    const input = page.get<HTMLInputElement>('input[type=file]')
    Object.defineProperty(input.element, 'files', { value: [new File(['x'], 'log.csv')] })
    await input.trigger('change')
    await vi.waitFor(() => expect(page.find('[role=alert]').exists()).toBe(true))
    expect(page.get('[role=alert]').text()).toBe('Line 2: the date is not a date.')
  })

  it('notes what hurts with what it forbids, and that it is over', async () => {
    answers.set('POST /api/athletes/4/log', (body: { reports: object[] }) => log({ reports: body.reports }))
    const page = await show()
    await page.get('[aria-label=Where]').setValue('knee')
    await page.get('[aria-label="How much, of 10"]').setValue(5)
    await page.get('form').trigger('submit')
    await flushPromises()
    expect(changes()[0]!.body).toMatchObject({ reports: [{ kind: 'pain', site: 'knee', degree: 5, until: null }] })
    expect(page.get('[role=status]').text()).toBe('Noted; what it forbids is no longer offered.')
    expect(page.get('aside').text()).toContain('Pain 5/10, knee')
    await page.get('.hurt button').trigger('click')
    await flushPromises()
    const { reports } = changes()[1]!.body as { reports: { key: string; until: string | null }[] }
    expect(reports[0]!.until).toMatch(/^\d{4}-\d\d-\d\d$/)
    expect(page.find('.hurt button').exists()).toBe(false)
  })

  it('says beside it that pain is not the program’s to treat', async () => {
    answers.set('/api/athletes/4/log', log({ reports: [pain] }))
    const page = await show()
    expect(page.get('aside').text()).toContain('Pain of 4 or more stops the work and is for a licensed clinician.')
  })

  it('puts an answer away once it was read', async () => {
    answers.set('/api/athletes/4/log', log({ said: [{ id: 9, words: 'Felt calm.', at: '2026-11-20', read: false }] }))
    answers.set('POST /api/athletes/4/said/9/read', () => {
      answers.set('/api/athletes/4/log', log({ said: [{ id: 9, words: 'Felt calm.', at: '2026-11-20', read: true }] }))
      return {}
    })
    const page = await show()
    await page.get('.said button').trigger('click')
    await flushPromises()
    expect(page.find('.said').exists()).toBe(false)
  })
})
