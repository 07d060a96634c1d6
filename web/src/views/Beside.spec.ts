import { flushPromises, mount } from '@vue/test-utils'
import { createMemoryHistory, createRouter } from 'vue-router'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Clip } from '@/api/client'
import { answers, asked, forget } from '@/testing/server'
import Beside from './Beside.vue'

vi.mock('@/api/client', async () => (await import('@/testing/server')).client)

const lift = (kind: string, contact: number, apex: number) => ({
  kind,
  start_frame: 0,
  end_frame: 60,
  events: { contact: { frame: contact * 10, time_s: contact }, apex: { frame: apex * 10, time_s: apex } },
  measures: { peak_height: { value: 1.2 + contact / 10, sd: 0.01, unit: 'm' } },
  bar: { first_frame: 0, x_m: [0], y_m: [0], vx_m_s: [0], vy_m_s: [0] },
})
const laid = (...lifts: unknown[]) => ({
  document: {
    clip: {
      frame_time_s: Array.from({ length: 61 }, (_, i) => i / 10),
      frame_count: 61,
      facing: 'right',
      view: { kind: 'side' },
    },
    lifts,
  },
  playback_s: null,
})
const clip = (id: string, more: Partial<Clip> = {}) =>
  ({
    id,
    athlete: 1,
    athlete_name: 'Ida',
    lift: 'snatch',
    load: 70,
    load_unit: 'kg',
    made: true,
    measured: true,
    model_name: '',
    ...more,
  }) as Clip

async function shown(other: string) {
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [
      { path: '/', component: { template: '<i />' } },
      { path: '/clips/:id', name: 'bench', component: { template: '<i />' } },
      { path: '/clips/:id/beside/:other', name: 'beside', component: Beside, props: true },
    ],
  })
  await router.push(`/clips/one/beside/${other}`)
  const page = mount(
    { template: '<RouterView />' },
    { global: { plugins: [router], stubs: { Pane: true, Paths: true } } },
  )
  await flushPromises()
  return { page, router }
}

describe('lifts side by side', () => {
  beforeEach(() => {
    forget()
    answers.set('/api/clips/one', clip('one'))
    answers.set('/api/clips/one/beside', [clip('two', { load: 76 }), clip('three', { athlete: 2, model_name: 'Calm' })])
    answers.set('/api/catalogue', { faults: [], measures: [{ id: 'peak_height', label: 'Peak height' }] })
    answers.set('/api/schools', [{ id: 'model', position: 'reference' }])
    answers.set('/api/clips/one/bench', laid(lift('clean', 1, 2), lift('snatch', 2, 3)))
    answers.set('/api/clips/two/bench', laid(lift('snatch', 1.5, 2.5), lift('clean', 1.5, 2.5)))
    for (const place of [0, 1])
      answers.set(`/api/clips/one/reference/${place}`, {
        ...laid(lift(place ? 'snatch' : 'clean', 1, 1.8)),
        own_limbs: place === 0,
      })
  })

  it('are lifts of one set, too: the first and the last', async () => {
    answers.set('/api/clips/one/bench', laid(lift('snatch', 1, 2), lift('snatch', 2, 3), lift('snatch', 3, 4)))
    const { page, router } = await shown('none')
    const beside = page.get('[aria-label="The lift beside it"]')
    expect(beside.get('optgroup').attributes('label')).toBe('Another lift of this clip')
    await beside.setValue('one')
    await flushPromises()
    expect(router.currentRoute.value.params.other).toBe('one')
    const chosen = page.findAll<HTMLSelectElement>('[aria-label="Lift of this clip"]').map((one) => one.element.value)
    expect(chosen).toEqual(['0', '2'])
    // A third there is, and no fourth.
    await router.push('/clips/one/beside/one,one')
    await flushPromises()
    const more = page.get('[aria-label="Lay one more beside them"]').findAll('option')
    expect(more.map((one) => one.attributes('value'))).not.toContain('one')
  })
  it('stand at one position, each with the lift of its clip that the first one shows', async () => {
    const { page } = await shown('two')
    const frames = () => page.findAllComponents({ name: 'Pane' }).map((pane) => pane.props('frame'))
    expect(frames()).toEqual([10, 15])
    await page
      .findAll('.chips button')
      .find((button) => button.text() === 'Apex')!
      .trigger('click')
    expect(frames()).toEqual([20, 25])
    expect(page.find('[data-test=differences]').text()).toContain('Peak height')
  })
  it('show the made-up lifter doing the lift that is shown, and say whose limbs they are', async () => {
    const { page } = await shown('reference')
    expect(page.find('.note').text()).toBe('stature and limbs as fitted here')
    await page.find('[aria-label="Lift of this clip"]').setValue('1')
    await flushPromises()
    expect(asked.map(({ path }) => path).filter((path) => path.includes('reference'))).toEqual([
      '/api/clips/one/reference/0',
      '/api/clips/one/reference/1',
    ])
    expect(page.find('.note').text()).toBe('this stature, usual limbs')
  })
  it('offer first what the coach holds lifts against', async () => {
    answers.set('/api/schools', [{ id: 'model', position: 'named' }])
    const { page, router } = await shown('none')
    const picks = page.find('[aria-label="Lay beside it what it is compared with most"]')
    expect(picks.findAll('option').map((option) => option.text())[1]).toBe('model: Calm')
    await picks.setValue('0')
    await flushPromises()
    expect(router.currentRoute.value.params.other).toBe('three')
  })
  it('say that the made-up lifter does not do a lift, and leave the choice of another', async () => {
    answers.delete('/api/clips/one/reference/0')
    const { page } = await shown('reference')
    expect(page.find('[role=alert]').text()).toContain('Nothing answers GET /api/clips/one/reference/0.')
    expect(page.find('.side-1 .empty').text()).toBe('This cannot be shown. Choose another above.')
    await page.find('[aria-label="Lift of this clip"]').setValue('1')
    await flushPromises()
    expect(page.find('[role=alert]').exists()).toBe(false)
    expect(page.find('.note').exists()).toBe(true)
  })
  it('say what is wrong with a way back', async () => {
    answers.delete('/api/clips/two/bench')
    const { page } = await shown('two')
    expect(page.find('[role=alert]').text()).toContain('Nothing answers GET /api/clips/two/bench.')
    expect(page.find('[role=alert] a').attributes('href')).toBe('/')
  })
})
