import { flushPromises, mount, type VueWrapper } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { useQueue, type Facts } from '@/stores/queue'
import { answers, forget } from '@/testing/server'
import UploadPanel from './UploadPanel.vue'

vi.mock('@/api/client', async () => (await import('@/testing/server')).client)

const film = (name: string) => new File(['x'.repeat(2_000_000)], name, { lastModified: Date.UTC(2026, 10, 20, 12) })
let sent: { name: string; facts: Facts }[]

function panel(files = [film('one.mp4')], fails?: string) {
  const queue = useQueue()
  queue.athletes = [{ id: 4, name: 'Ida Fenn' }] as never
  vi.spyOn(queue, 'send').mockImplementation(async (file, facts, onProgress) => {
    onProgress(0.5)
    if (fails) throw new Error(fails)
    sent.push({ name: file.name, facts })
  })
  return mount(UploadPanel, { props: { files } })
}

/** Pick the one athlete there is. */
/** Say of one that it was made. */
const made = (page: VueWrapper, of = 0) => page.findAll('form')[of]!.get('[data-test=made]').setValue('made')
function choose(page: VueWrapper) {
  const select = page.findAll('select')[0]!.element as HTMLSelectElement
  for (const [index, option] of [...select.options].entries()) option.selected = index === 1
  return page.findAll('select')[0]!.trigger('change')
}

beforeEach(() => {
  forget()
  answers.set('/api/rack', { unit: 'kg' })
  setActivePinia(createPinia())
  sent = []
})

describe('clips on their way in', () => {
  it('are asked whose they are before anything is sent', async () => {
    const page = panel()
    await page.get('form').trigger('submit')
    expect(page.text()).toContain('Say whose clip this is.')
    expect(sent).toEqual([])
  })
  it('are sent with lift, load, unit, outcome and the day the file was made', async () => {
    const page = panel()
    const [, lift, unit, outcome] = page.findAll('select')
    await choose(page)
    await lift!.setValue('clean_and_jerk')
    await page.get('input[inputmode=decimal]').setValue('82,5')
    await unit!.setValue('lb')
    await outcome!.setValue('missed')
    await page.get('form').trigger('submit')
    await flushPromises()
    expect(sent).toEqual([
      {
        name: 'one.mp4',
        facts: {
          athlete: 4,
          lift: 'clean_and_jerk',
          load: 82.5,
          load_unit: 'lb',
          made: false,
          filmed_on: '2026-11-20',
        },
      },
    ])
    expect(page.emitted('done')).toHaveLength(1)
  })
  it('are asked whether they were made or missed, which nobody assumes, and of a pull not at all', async () => {
    const page = panel()
    await choose(page)
    await page.get('form').trigger('submit')
    expect(page.text()).toContain('Say whether it was made or missed.')
    await page.findAll('select')[1]!.setValue('snatch_pull')
    expect(page.find('[data-test=made]').exists()).toBe(false)
    await page.get('form').trigger('submit')
    await flushPromises()
    expect(sent.map(({ facts }) => facts.made)).toEqual([null])
  })
  it('refuse a load that is no number, in words', async () => {
    const page = panel()
    await choose(page)
    await page.get('input[inputmode=decimal]').setValue('heavy')
    await page.get('form').trigger('submit')
    expect(page.text()).toContain('The load is a number, or left empty.')
    expect(sent).toEqual([])
  })
  it('stay with everything entered when sending fails, and can be sent again', async () => {
    const page = panel([film('one.mp4')], 'The connection broke while sending.')
    await choose(page)
    await made(page)
    await page.get('form').trigger('submit')
    await flushPromises()
    expect(page.text()).toContain('The connection broke while sending.')
    expect((page.findAll('select')[0]!.element as HTMLSelectElement).selectedIndex).toBe(1)
    expect(page.get('button[type=submit]').attributes('disabled')).toBeUndefined()
    expect(page.emitted('done')).toBeUndefined()
  })
  it('take the facts of the clip before, but not its load', async () => {
    const page = panel()
    await choose(page)
    await page.get('input[inputmode=decimal]').setValue('70')
    await page.setProps({ files: [film('one.mp4'), film('two.mp4')] })
    const second = page.findAll('form').at(-1)!
    expect((second.findAll('select')[0]!.element as HTMLSelectElement).value).toBe('4')
    expect((second.get('input[inputmode=decimal]').element as HTMLInputElement).value).toBe('')
  })
  it('of one session are told whose they are and which lift once, but for what is said of a clip itself', async () => {
    const page = panel([film('one.mp4'), film('two.mp4'), film('three.mp4')])
    const lift = (of: number) => page.findAll('form')[of]!.findAll('select')[1]!
    const lifts = () => [0, 1, 2].map((of) => (lift(of).element as HTMLSelectElement).value)
    await lift(1).setValue('clean')
    expect(lifts()).toEqual(['snatch', 'clean', 'clean'])
    await lift(0).setValue('power_snatch')
    expect(lifts()).toEqual(['power_snatch', 'clean', 'clean'])
    await page.findAll('form')[0]!.findAll('select')[3]!.setValue('missed')
    await made(page, 1)
    await made(page, 2)
    await choose(page)
    await page
      .findAll('button')
      .find((button) => button.text() === 'Send all')!
      .trigger('click')
    await flushPromises()
    expect(sent.map(({ name, facts }) => [name, facts.athlete, facts.lift, facts.made])).toEqual([
      ['one.mp4', 4, 'power_snatch', false],
      ['two.mp4', 4, 'clean', true],
      ['three.mp4', 4, 'clean', true],
    ])
    expect(page.emitted('done')).toHaveLength(1)
  })
  it('are all sent though one of them is refused, and that one stays', async () => {
    const page = panel([film('one.mp4'), film('two.mp4')])
    await choose(page)
    await page.findAll('form')[0]!.get('input[inputmode=decimal]').setValue('heavy')
    await made(page)
    await made(page, 1)
    await page
      .findAll('button')
      .find((button) => button.text() === 'Send all')!
      .trigger('click')
    await flushPromises()
    expect(sent.map(({ name }) => name)).toEqual(['two.mp4'])
    expect(page.findAll('form')).toHaveLength(1)
    expect(page.text()).toContain('The load is a number, or left empty.')
  })
  it('do not come back once they are left out when more are chosen', async () => {
    const [one, two, three] = [film('one.mp4'), film('two.mp4'), film('three.mp4')]
    const page = panel([one, two])
    await page
      .findAll('button')
      .find((button) => button.text() === 'Leave out')!
      .trigger('click')
    await page.setProps({ files: [one, two, three] })
    expect(page.findAll('.name').map((name) => name.text().split(' ')[0])).toEqual(['two.mp4', 'three.mp4'])
  })
})
