import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { Catalogue, Lift } from '@/api/client'
import MeasureTable from './MeasureTable.vue'

const lift = {
  measures: {
    peak_velocity: { value: 1.874, unit: 'm/s', sd: 0.021, frame: 119 },
    peak_height: { value: 1.282, unit: 'm', sd: 0.006, frame: 133 },
    'bar_x@knee': { value: -1.2, unit: 'cm', sd: 0.5, frame: 93, note: "the knee's height stands in from stature" },
    peak_power: { value: null, unit: 'W', reason: 'the load was not given' },
  },
} as unknown as Lift
const catalogue = {
  faults: [],
  measures: [
    { id: 'peak_velocity', label: 'Peak velocity', unit: 'm/s', about: 'Largest upward speed of the bar in the pull.' },
  ],
} as unknown as Catalogue
const table = (of = lift) => mount(MeasureTable, { props: { lift: of, catalogue, clip: 'clip-1' } })

describe('the figures', () => {
  it('stand with unit and uncertainty', () => {
    const row = table().get('[data-measure=peak_velocity]')
    expect(row.text()).toContain('Peak velocity')
    expect(row.text().replaceAll('\u00a0', ' ')).toContain('1.87 ± 0.02 m/s')
    expect(row.attributes('title')).toContain('Largest upward speed')
  })
  it('show lengths in centimetres', () => {
    expect(table().get('[data-measure=peak_height]').text().replaceAll('\u00a0', ' ')).toContain('128.2 ± 0.6 cm')
  })
  it('lead to the frame that shows them', async () => {
    const page = table()
    await page.get('[data-measure=peak_height] button').trigger('click')
    expect(page.emitted('go')).toEqual([[133]])
  })
  it('are found by a part of their name', async () => {
    const page = table()
    await page.get('input[type=search]').setValue('peak vel')
    expect(page.findAll('[data-measure]').map((row) => row.attributes('data-measure'))).toEqual(['peak_velocity'])
    await page.get('input[type=search]').setValue('nothing of the kind')
    expect(page.text()).toContain('No figure is called that')
  })
  it('give the reason where there is none, when asked, and no frame', async () => {
    const page = table()
    expect(page.find('[data-measure=peak_power]').exists()).toBe(false)
    await page.get('input[type=checkbox]').setValue(true)
    const row = page.get('[data-measure=peak_power]')
    expect(row.text()).toContain('the load was not given')
    expect(row.find('button').exists()).toBe(false)
  })
  it('say which stand on stature, and only when one does', () => {
    expect(table().text()).toContain('stands in from stature, since the knee was not seen')
    const plain = { measures: { peak_velocity: lift.measures.peak_velocity } } as unknown as Lift
    expect(table(plain).text()).not.toContain('stands in from stature')
  })
  it('can be kept as files', () => {
    expect(
      table()
        .findAll('a[download]')
        .map((one) => one.attributes('href')),
    ).toEqual(
      ['positions.png', 'drawn.mp4', 'bar.csv', 'joints.trc', 'notes.vtt', 'analysis.json'].map(
        (file) => `/api/clips/clip-1/${file}`,
      ),
    )
  })
})
