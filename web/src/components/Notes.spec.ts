import { flushPromises, mount } from '@vue/test-utils'
import { expect, it, vi } from 'vitest'
import Notes from './Notes.vue'
import { WHOLE } from './closer'
import { unsent } from './voice'

const spoken = { key: 'one', clip: 'c', sound: new Blob(['x']), shown: [[0, 23]] as [number, number][] }

it('throws an unsent recording away only when asked twice, since nobody else has it', async () => {
  vi.spyOn(unsent, 'of').mockResolvedValue([spoken])
  const drop = vi.spyOn(unsent, 'drop').mockResolvedValue(undefined)
  vi.stubGlobal('fetch', async () => new Response('[]', { headers: { 'Content-Type': 'application/json' } }))
  const notes = mount(Notes, { props: { clip: 'c', frame: 0, look: { ...WHOLE, drawn: [] } } })
  await flushPromises()
  const held = () => notes.find('[data-test=held]')
  expect(held().text()).toContain('Recorded at frame 23')
  await held().findAll('button')[1]!.trigger('click')
  expect(drop).not.toHaveBeenCalled()
  expect(held().findAll('button')[1]!.text()).toBe('Throw it away for good')
  await held().findAll('button')[1]!.trigger('click')
  await flushPromises()
  expect(drop).toHaveBeenCalledWith(spoken)
  expect(held().exists()).toBe(false)
})
