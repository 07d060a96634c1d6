import { flushPromises, mount, type VueWrapper } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { useQueue, type Facts } from '@/stores/queue'
import UploadPanel from './UploadPanel.vue'

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
function choose(page: VueWrapper) {
  const select = page.findAll('select')[0]!.element as HTMLSelectElement
  for (const [index, option] of [...select.options].entries()) option.selected = index === 1
  return page.findAll('select')[0]!.trigger('change')
}

beforeEach(() => {
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
    const [, lift, unit, made] = page.findAll('select')
    await choose(page)
    await lift!.setValue('clean_and_jerk')
    await page.get('input[inputmode=decimal]').setValue('82,5')
    await unit!.setValue('lb')
    await made!.setValue('missed')
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
})
