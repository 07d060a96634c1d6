import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { Clip } from '@/api/client'
import AsModel from './AsModel.vue'

const clip = (facts: Partial<Clip>) => ({ id: 'c', athlete_name: 'Ida Fenn', ...facts }) as Clip
const show = (facts: Partial<Clip>) => mount(AsModel, { props: { clip: clip(facts), saving: false } })

describe('a lift to measure others by', () => {
  it('is named only with the lifter’s word that it may be shown', async () => {
    const page = show({})
    const button = page.get('button')
    await page.get('#model-name').setValue('  Calm first pull ')
    expect(button.attributes('disabled')).toBeDefined()
    await page.get('input[type=checkbox]').setValue(true)
    expect(button.attributes('disabled')).toBeUndefined()
    await page.get('form').trigger('submit')
    expect(page.emitted('set')).toEqual([[{ model_name: 'Calm first pull', model_agreed: true }]])
  })
  it('says who must agree', () => expect(show({}).text()).toContain('Ida Fenn agrees'))
  it('is no longer one with a click, and the word goes with it', async () => {
    const page = show({ model_name: 'Calm first pull', model_agreed: true })
    await page.get('button.btn-link').trigger('click')
    expect(page.emitted('set')).toEqual([[{ model_name: '', model_agreed: false }]])
  })
  it('shows what stands when the clip is another', async () => {
    const page = show({ model_name: 'Calm first pull', model_agreed: true })
    await page.setProps({ clip: clip({ model_name: '', model_agreed: false }) })
    expect((page.get('#model-name').element as HTMLInputElement).value).toBe('')
    expect(page.find('button.btn-link').exists()).toBe(false)
  })
})
