import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import Amount from './Amount.vue'
import DiscsOnBar from './DiscsOnBar.vue'

describe('a loaded bar', () => {
  it('names the discs of one side with their unit', () => {
    const bar = mount(DiscsOnBar, { props: { perSide: [15, 2.5, 0.5], unit: 'kg' } })
    expect(bar.get('figcaption').text()).toBe('Each side: 15 kg + 2.5 kg + 0.5 kg')
    expect(bar.findAll('b').map((disc) => disc.text())).toEqual(['15', '2.5', '0.5'])
  })
  it('says so when there are none', () => {
    expect(mount(DiscsOnBar, { props: { perSide: [], unit: 'lb' } }).text()).toContain('The bar alone')
  })
})

describe('an amount', () => {
  it('carries its uncertainty at the same digits, and its unit', () => {
    const text = mount(Amount, { props: { value: 1.874, unit: 'm/s', sd: 0.021 } }).text()
    expect(text.replace(/\s+/g, ' ')).toBe('1.87 ± 0.02 m/s')
  })
  it('never claims to be exact', () => {
    expect(mount(Amount, { props: { value: 4.2, unit: 'cm', sd: 0.01 } }).text()).toContain('± < 0.1')
  })
})
