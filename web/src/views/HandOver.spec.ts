import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Assignment, Offer, Review } from '@/api/client'
import { Refusal } from '@/api/refusal'
import { answers, changes as made, forget } from '@/testing/server'
import { opened, pressed } from '@/testing/opened'
import HandOver from './HandOver.vue'

vi.mock('@/api/client', async () => (await import('@/testing/server')).client)

const offer = (exercise: string, more: Partial<Offer> = {}) =>
  ({
    exercise,
    name: exercise.replaceAll('_', ' '),
    reason: 'Bar swings out',
    how: 'From the hang.',
    cautions: ['Guard the low back.'],
    before: [],
    sets: 4,
    reps: 3,
    percent: 70,
    percent_low: 60,
    percent_high: 80,
    per_week: 2,
    weeks: 4,
    load: '',
    dose: { total: 55, unit: 'kg', basis: 'snatch', best_kilos: 80, per_side: [15, 2.5] },
    ...more,
  }) as unknown as Offer
const review = (more: Partial<Review> = {}) =>
  ({
    good: '',
    words: '',
    link: null,
    preview: { athlete: 'Ida Fenn', good: ['The bar stays close (1.2 cm).'], points: [], work: [], words: '' },
    ...more,
  }) as unknown as Review
const set = (exercise: string, id = 7) =>
  ({ id, exercise, name: exercise, sets: 4, reps: 3, total: 55, unit: 'kg' }) as unknown as Assignment

/** What was changed, without which words of the review had been seen. */
const changes = () =>
  made().map((one) => {
    const { seen, ...body } = (one.body ?? {}) as Record<string, unknown>
    return one.body && seen !== undefined ? { ...one, body } : one
  })

const show = () => opened(HandOver, { id: 'one' }, ['HandedReview', 'DiscsOnBar'])
const offered = (page: Awaited<ReturnType<typeof show>>, exercise: string) => page.get(`[data-exercise=${exercise}]`)
const field = (page: Awaited<ReturnType<typeof show>>, exercise: string, name: string) =>
  offered(page, exercise)
    .findAll('label')
    .find((label) => label.text().startsWith(name))!
    .get('input')

describe('handing over', () => {
  beforeEach(() => {
    forget()
    answers.set('/api/clips/one', { athlete: 3 })
    answers.set('/api/clips/one/review', review())
    answers.set('/api/clips/one/offers', { offers: [offer('hang_snatch'), offer('snatch_pull')], caution: '' })
    answers.set('/api/clips/one/assignments', [])
    answers.set('PUT /api/clips/one/review', (body: Partial<Review>) => review(body))
  })

  it('shows what was written elsewhere meanwhile, and lets the coach choose', async () => {
    let written = ''
    answers.set('PUT /api/clips/one/review', (body: { words?: string; seen: string }) => {
      if (body.seen !== 'later')
        throw new Refusal('This review was written elsewhere.', { theirs: { good: '', words: 'Stay over the bar.' } })
      written = body.words!
      return review({ ...body, written_at: 'later' } as never)
    })
    const page = await show()
    await page.get('#words').setValue('Keep it close.')
    await flushPromises()
    answers.set('/api/clips/one/review', review({ words: 'Stay over the bar.', written_at: 'later' }))
    expect(page.get('[data-test=meanwhile]').text()).toContain('Stay over the bar.')
    await pressed(page, 'Use mine')
    expect(written).toBe('Keep it close.')
    expect(page.find('[data-test=meanwhile]').exists()).toBe(false)
  })

  it('begins with what was measured to be good, and keeps what the coach makes of it', async () => {
    const page = await show()
    const good = page.get<HTMLTextAreaElement>('#good')
    expect(good.element.value).toBe('The bar stays close (1.2 cm).')
    await good.setValue('Close all the way.')
    await flushPromises()
    expect(changes()).toEqual([{ method: 'PUT', path: '/api/clips/one/review', body: { good: 'Close all the way.' } }])
  })

  it('sets work with the numbers as they stand, and what was entered of another offer stays', async () => {
    answers.set('POST /api/clips/one/assignments', () => {
      answers.set('/api/clips/one/assignments', [set('hang_snatch')])
      answers.set('/api/clips/one/offers', { offers: [offer('hang_snatch'), offer('snatch_pull')], caution: '' })
      return {}
    })
    const page = await show()
    await field(page, 'snatch_pull', 'Sets').setValue(6)
    await field(page, 'hang_snatch', 'Reps').setValue(2)
    await offered(page, 'hang_snatch').get('button').trigger('click')
    await flushPromises()
    expect(changes()[0]!.body).toMatchObject({ exercise: 'hang_snatch', sets: 4, reps: 2, percent: 70, weeks: 4 })
    expect(page.find('[data-exercise=hang_snatch]').exists()).toBe(false)
    expect(page.get('[data-test=assigned]').text()).toContain('hang_snatch')
    expect(field(page, 'snatch_pull', 'Sets').element.value).toBe('6')
  })

  it('tells the load at another share, and the last one stays while the field holds no number', async () => {
    answers.set('/api/clips/one/offers/hang_snatch/dose?percent=75', {
      total: 60,
      unit: 'kg',
      basis: 'snatch',
      best_kilos: 80,
      per_side: [20],
    })
    const page = await show()
    await field(page, 'hang_snatch', '% of best').setValue(75)
    await flushPromises()
    expect(offered(page, 'hang_snatch').text()).toMatch(/75 % is 60\skg/)
    await field(page, 'hang_snatch', '% of best').setValue('')
    await flushPromises()
    expect(offered(page, 'hang_snatch').text()).toMatch(/is 60\skg/)
    expect(page.find('[role=alert]').exists()).toBe(false)
  })

  it('shows a caution beside the work and sends the reason for setting it in spite of it', async () => {
    answers.set('/api/clips/one/offers', { offers: [offer('hang_snatch')], caution: 'Ida is to ask for clearance.' })
    answers.set('POST /api/clips/one/assignments', {})
    const page = await show()
    expect(page.text()).toContain('Ida is to ask for clearance.')
    await page.get('.reason input').setValue('Cleared on Monday')
    await offered(page, 'hang_snatch').get('button').trigger('click')
    await flushPromises()
    expect(changes()[0]!.body).toMatchObject({ in_spite_of: 'Cleared on Monday' })
  })

  it('hands over with the words as they stand, in the order they were entered, and then shows the link', async () => {
    answers.set('POST /api/clips/one/hand-over', () =>
      review({ link: { token: 'abc', expires_at: '2026-12-28T00:00:00Z', opened_count: 0 } } as Partial<Review>),
    )
    const page = await show()
    await page.get('#words').setValue('Patient off the floor.')
    await pressed(page, 'Hand over')
    expect(changes().map(({ method, path }) => `${method} ${path}`)).toEqual([
      'PUT /api/clips/one/review',
      'PUT /api/clips/one/review',
      'POST /api/clips/one/hand-over',
    ])
    expect(changes()[1]!.body).toEqual({ good: 'The bar stays close (1.2 cm).', words: 'Patient off the floor.' })
    expect(page.get<HTMLInputElement>('[data-test=link]').element.value).toMatch(/\/r\/abc$/)
    expect(page.text()).toContain('Not opened yet.')
  })

  it('keeps what was written when the server cannot be reached, and says so', async () => {
    answers.set('PUT /api/clips/one/review', new Error('The server cannot be reached.'))
    const page = await show()
    await page.get('#words').setValue('Patient off the floor.')
    await pressed(page, 'Hand over')
    expect(page.get('[role=alert]').text()).toBe('The server cannot be reached.')
    expect(page.get<HTMLTextAreaElement>('#words').element.value).toBe('Patient off the floor.')
    expect(page.find('[data-test=link]').exists()).toBe(false)
  })

  it('leaves a way back from a review that cannot be opened', async () => {
    answers.delete('/api/clips/one/review')
    const page = await show()
    expect(page.get('[role=alert]').text()).toContain('Nothing answers GET /api/clips/one/review.')
    expect(page.get('[role=alert] a').attributes('href')).toBe('/')
  })
})
