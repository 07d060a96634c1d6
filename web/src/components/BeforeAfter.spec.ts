import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import BeforeAfter from './BeforeAfter.vue'

const lift = (frame: number, at: Record<string, number>) => ({
  kind: 'snatch',
  start_frame: 0,
  end_frame: 9,
  bar: { first_frame: 0, time_s: [0, 0.1], x_m: [0, 0.02], y_m: [0.2, 0.8] },
  events: Object.fromEntries(Object.entries(at).map(([name, where]) => [name, { frame: where, time_s: where / 60 }])),
  measures: { trunk_change_to_knee: { value: -5, sd: 1, unit: '°', frame } },
})
const DOCUMENTS: Record<string, unknown> = {
  old: { lifts: [lift(40, { lift_off: 20, knee: 40, contact: 60, apex: 80, bottom: 90 })] },
  new: { lifts: [lift(52, { lift_off: 30, knee: 52, contact: 71, apex: 92 })] },
}
const show = () =>
  mount(BeforeAfter, { props: { before: 'old', after: 'new', kind: 'snatch', measure: 'trunk_change_to_knee' } })
const answering = (of: (id: string) => Response) =>
  vi.stubGlobal('fetch', async (request: Request) => of(/clips\/(\w+)\/bench/.exec(request.url)![1]!))
const json = (body: unknown, status = 200) =>
  new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } })

describe('before and after a block', () => {
  afterEach(() => vi.unstubAllGlobals())
  it('shows the frames of the number that was to move first, then positions that both lifts have', async () => {
    answering((id) => json({ document: DOCUMENTS[id] }))
    const page = show()
    await flushPromises()
    expect(page.findAll('figcaption').map((one) => one.text())).toEqual([
      'Line: before. Dashes: after.',
      'The number: before, after',
      'Lift-off: before, after',
      'Knee: before, after',
    ])
    const pictures = page.findAll('img').map((one) => one.attributes('src'))
    expect(pictures[0]).toContain('/clips/old/frames/40.jpg')
    expect(pictures[1]).toContain('/clips/new/frames/52.jpg')
    for (const picture of page.findAll('img')) expect(picture.attributes('alt')).toMatch(/, (before|after)$/)
  })
  it('says why when a film is gone', async () => {
    answering((id) =>
      id === 'old' ? json({ detail: 'This clip was deleted.' }, 404) : json({ document: DOCUMENTS[id] }),
    )
    const page = show()
    await flushPromises()
    expect(page.text()).toBe('This clip was deleted.')
    expect(page.find('[data-test=before-after]').exists()).toBe(false)
  })
})
