import { flushPromises } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { Clip } from '@/api/client'
import { opened, pressed } from '@/testing/opened'
import { answers, asked, changes, forget } from '@/testing/server'
import Queue from './Queue.vue'

vi.mock('@/api/client', async () => (await import('@/testing/server')).client)

const clip = (id: string, state: string, more: Partial<Clip> = {}) =>
  ({
    id,
    athlete_name: 'Ida Fenn',
    lift: 'power_snatch',
    load: 60,
    load_unit: 'kg',
    made: true,
    measured: state === 'done',
    reviewed: false,
    filmed_on: null,
    added_at: '2026-11-20T08:00:00Z',
    job: { state, stage: 'tracking', progress: 0.4, error_message: 'No disc was seen.' },
    ...more,
  }) as unknown as Clip

/** As the server tells them, by what they wait for; of which sort more are there than it tells, `more`. */
function queued(clips: Clip[], late: string[] = [], more: Record<string, number> = {}) {
  const sort = (one: Clip) => {
    if (one.job.state === 'failed') return 'failed'
    if (!one.measured) return 'working'
    return one.reviewed ? 'handed' : late.includes(one.id) ? 'overdue' : 'look'
  }
  answers.set(
    '/api/clips/queue',
    ['failed', 'overdue', 'look', 'working', 'handed'].map((waiting) => {
      const here = clips.filter((one) => sort(one) === waiting)
      return { waiting, count: here.length + (more[waiting] ?? 0), clips: here }
    }),
  )
}

const show = () => opened(Queue, {}, ['UploadPanel', 'BProgress'])

describe('the queue', () => {
  beforeEach(() => {
    vi.useFakeTimers({ now: new Date('2026-11-20T12:00:00Z') })
    setActivePinia(createPinia())
    forget()
    queued([clip('one', 'failed'), clip('two', 'running'), clip('three', 'done')])
    answers.set('/api/athletes', [{ id: 1, name: 'Ida Fenn' }])
    answers.set('/api/clips/progress', [
      { clip: 'two', job: { state: 'running', stage: 'tracking', progress: 0.7, error_message: '' } },
    ])
  })
  afterEach(() => vi.useRealTimers())

  it('puts what could not be analysed first, and says why, and what waits for the coach before what is worked on', async () => {
    const page = await show()
    expect(page.findAll('section').map((section) => section.attributes('aria-label'))).toEqual([
      'Could not be analysed',
      'Waiting for you',
      'Being worked on',
    ])
    expect(page.get('section').text()).toContain('No disc was seen.')
    expect(page.text()).toContain('Following the disc')
    expect(page.text()).toContain('40 %')
  })

  it('says which clips have waited too long for the coach, and how many', async () => {
    vi.setSystemTime(new Date('2026-11-23T09:00:00Z'))
    const came = { added_at: '2026-11-22T08:00:00Z' }
    queued(
      [clip('new', 'done', came), clip('old', 'done'), clip('told', 'done', { reviewed: true }), clip('x', 'running')],
      ['old'],
    )
    const page = await show()
    expect(page.text().match(/waits \d+ days/g)).toEqual(['waits 3 days'])
    expect(page.get('section h2').text()).toMatch(/2\s*· 1 overdue, for 2 days or longer/)
    // What has waited too long comes first.
    expect(page.get('section li').text()).toContain('waits 3 days')
  })

  it('shows the first of many, and more on asking', async () => {
    queued([clip('one', 'done'), clip('two', 'done')], [], { look: 1 })
    answers.set('/api/clips', { results: ['one', 'two', 'three'].map((id) => clip(id, 'done')), next: null })
    const page = await show()
    expect(page.findAll('li')).toHaveLength(2)
    await pressed(page, 'Show more: 2 of 3 shown')
    expect(page.findAll('li')).toHaveLength(3)
    expect(page.text()).not.toContain('Show more')
  })

  it('asks often while something is worked on and seldom while nothing is', async () => {
    await show()
    const looks = (path: string) => asked.filter((one) => one.path === path).length
    // While something is under way only how far it is; the list again once that has ended.
    await vi.advanceTimersByTimeAsync(1000)
    expect([looks('/api/clips/progress'), looks('/api/clips/queue')]).toEqual([1, 1])
    answers.set('/api/clips/progress', [])
    queued([clip('three', 'done')])
    await vi.advanceTimersByTimeAsync(1000)
    expect([looks('/api/clips/progress'), looks('/api/clips/queue')]).toEqual([2, 2])
    await vi.advanceTimersByTimeAsync(5000)
    expect([looks('/api/clips/progress'), looks('/api/clips/queue')]).toEqual([2, 2])
  })

  it('shows how far what is under way has come', async () => {
    const page = await show()
    await vi.advanceTimersByTimeAsync(1000)
    expect(page.text()).toContain('70 %')
  })

  it('takes a failed clip up again', async () => {
    answers.set('POST /api/clips/one/retry', () => {
      queued([clip('one', 'queued')])
      return {}
    })
    const page = await show()
    await pressed(page, 'Try again')
    expect(changes()).toHaveLength(1)
    expect(page.find('[aria-label="Could not be analysed"]').exists()).toBe(false)
  })

  it('says so when a clip cannot be stopped any more', async () => {
    answers.set('POST /api/clips/two/stop', new Error('It is finished already.'))
    const page = await show()
    await pressed(page, 'Stop')
    expect(page.get('[role=alert]').text()).toContain('It is finished already.')
  })

  it('tells who has no clips yet how to film one, and who has no athletes to say who they are', async () => {
    queued([])
    answers.set('/api/athletes', [])
    const page = await show()
    expect(page.text()).toContain('Film a lift from the side')
    expect(page.get('.blank a').attributes('href')).toBe('/athletes')
  })

  it('keeps what it has shown when the server cannot be reached, and offers another try', async () => {
    const page = await show()
    answers.set('/api/clips/progress', new Error('The server cannot be reached.'))
    await vi.advanceTimersByTimeAsync(1000)
    expect(page.get('[role=alert]').text()).toContain('The server cannot be reached.')
    expect(page.findAll('li')).toHaveLength(3)
    queued([])
    await page.get('[role=alert] button').trigger('click')
    await flushPromises()
    expect(page.find('[role=alert]').exists()).toBe(false)
  })

  it('takes more files on top of those that wait to be described', async () => {
    const page = await show()
    const drop = (name: string) =>
      page.trigger('drop', { dataTransfer: { files: [new File(['x'], name, { type: 'video/mp4' })] } })
    await drop('a.mp4')
    await drop('b.mp4')
    const files = page.getComponent({ name: 'UploadPanel' }).props('files') as File[]
    expect(files.map(({ name }) => name)).toEqual(['a.mp4', 'b.mp4'])
  })
})
