import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Clip } from '@/api/client'
import { answers, forget } from '@/testing/server'
import WhoseClip from './WhoseClip.vue'

vi.mock('@/api/client', async () => (await import('@/testing/server')).client)

const clip = { id: 'c', athlete: 4, athlete_name: 'Ida Fenn' } as Clip

async function show() {
  const page = mount(WhoseClip, { props: { clip, saving: false } })
  await flushPromises()
  return page
}
function pick(page: Awaited<ReturnType<typeof show>>, place: number) {
  const select = page.get('select').element as HTMLSelectElement
  for (const [index, option] of [...select.options].entries()) option.selected = index === place
  return page.get('select').trigger('change')
}
const chosen = (page: Awaited<ReturnType<typeof show>>) => (page.get('select').element as HTMLSelectElement).value

describe('whose lift a clip shows', () => {
  beforeEach(() => {
    forget()
    answers.set('/api/athletes', [
      { id: 4, name: 'Ida Fenn' },
      { id: 5, name: 'Orla Quill' },
    ])
  })

  it('is said otherwise by picking another athlete', async () => {
    const page = await show()
    expect(chosen(page)).toBe('4')
    await pick(page, 1)
    expect(page.emitted('set')).toEqual([[{ athlete: 5 }]])
  })
  it('is who it was again where that was refused', async () => {
    const page = await show()
    await pick(page, 1)
    await page.setProps({ saving: true })
    await page.setProps({ saving: false })
    expect(chosen(page)).toBe('4')
  })
  it('still shows who it is when the others cannot be asked for', async () => {
    answers.delete('/api/athletes')
    const page = await show()
    expect(chosen(page)).toBe('4')
    expect(page.find('[role=alert]').exists()).toBe(true)
  })
})
