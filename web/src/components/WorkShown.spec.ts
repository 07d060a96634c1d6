import { flushPromises, mount, RouterLinkStub } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import WorkShown from './WorkShown.vue'

const OFFERED = { follows: null, offered: [{ assignment: 4, name: 'Halting snatch pull', on: '2026-11-23' }] }
const FOLLOWS = {
  follows: {
    clip: 'c',
    on: '2026-11-23',
    name: 'Halting snatch pull',
    step: 'up',
    says: 'Held: step up.',
    rules: [],
    taken_up: '',
  },
  offered: [],
}
const answer = (body: unknown) =>
  new Response(JSON.stringify(body), { headers: { 'Content-Type': 'application/json' } })
const show = () =>
  mount(WorkShown, { props: { clip: 'c', athlete: 3 }, global: { stubs: { RouterLink: RouterLinkStub } } })

describe('work that a film shows', () => {
  afterEach(() => vi.unstubAllGlobals())
  it('is offered by day and kind, and taken up with one click', async () => {
    const sent: [string, unknown][] = []
    let told: unknown = OFFERED
    vi.stubGlobal('fetch', async (request: Request) => {
      if (request.method === 'PUT') {
        sent.push([request.url, await request.json()])
        told = FOLLOWS
        return answer(FOLLOWS.follows)
      }
      return answer(told)
    })
    const page = show()
    await flushPromises()
    expect(page.get('[data-test=offered]').text()).toContain('Halting snatch pull, Mon 23 Nov')
    await page.get('[data-test=offered] button').trigger('click')
    await flushPromises()
    expect(sent).toEqual([[expect.stringContaining('/api/clips/c/follows'), { assignment: 4 }]])
    expect(page.get('[data-test=follows]').text()).toContain('Held: step up.')
  })
  it('is not asked for again once it was left', async () => {
    vi.stubGlobal('fetch', async () => answer(OFFERED))
    const page = show()
    await flushPromises()
    await page.get('.btn-link').trigger('click')
    expect(page.find('[data-test=offered]').exists()).toBe(false)
  })
})
