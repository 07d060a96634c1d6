import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import BodyMap from './BodyMap.vue'

describe('the body map', () => {
  it('takes pain in two taps', async () => {
    const map = mount(BodyMap)
    await map.get('[data-site="low back"]').trigger('click')
    expect(map.text()).toContain('see a licensed clinician')
    await map.get('[data-degree="5"]').trigger('click')
    expect(map.emitted('report')).toEqual([[{ kind: 'pain', site: 'low back', degree: 5 }]])
    expect(map.find('[data-site="low back"]').exists()).toBe(true)
  })
  it('takes a bruise, by keys as well', async () => {
    const map = mount(BodyMap)
    await map.get('input[value=bruise]').setValue(true)
    await map.get('[data-site=thigh]').trigger('keydown.enter')
    expect(map.text()).toContain('until it has healed')
    await map.get('[data-degree="3"]').trigger('click')
    expect(map.emitted('report')).toEqual([[{ kind: 'bruise', site: 'thigh', degree: 3 }]])
  })
  it('knows every place a report can name', () => {
    const sites = new Set(
      mount(BodyMap)
        .findAll('[data-site]')
        .map((spot) => spot.attributes('data-site')),
    )
    expect(sites.size).toBe(16)
  })
})
