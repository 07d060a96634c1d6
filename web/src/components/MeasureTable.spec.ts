import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
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
const table = (of = lift, active = false) =>
  mount(MeasureTable, { props: { lift: of, liftIndex: 1, catalogue, clip: 'clip-1', athlete: 3, active } })

afterEach(() => vi.unstubAllGlobals())

describe('the figures', () => {
  it('stand beside where they usually lie for this athlete, the least usual first when asked', async () => {
    const band = (measure: string, low: number, high: number) => ({
      measure,
      low,
      high,
      middle: (low + high) / 2,
      lifts: 9,
    })
    const told = {
      bands: [band('peak_velocity', 1.7, 1.9), band('peak_height', 1.1, 1.2)],
      band_lifts: 9,
      band_needs: 8,
    }
    const asked: string[] = []
    vi.stubGlobal('fetch', (request: Request) => {
      asked.push(request.url)
      return Promise.resolve(Response.json(told))
    })
    const page = table({ ...lift, kind: 'snatch' } as Lift, true)
    await flushPromises()
    expect(asked[0]).toContain('/api/athletes/3/series?kind=snatch')
    const usual = (id: string) => page.get(`[data-measure=${id}] .usual`)
    expect(usual('peak_velocity').text()).toBe('1.70 to 1.90')
    expect(usual('peak_velocity').classes()).not.toContain('beyond')
    // 128.2 cm against 110 to 120.
    expect(usual('peak_height').text()).toBe('110.0 to 120.0')
    expect(usual('peak_height').classes()).toContain('beyond')
    await page.get('select').setValue('usual')
    expect(page.findAll('[data-measure]')[0]!.attributes('data-measure')).toBe('peak_height')
    expect(page.text()).toContain('over 9 made lifts')
  })
  it('say from how many lifts on that is told, while there are fewer', async () => {
    vi.stubGlobal('fetch', () => Promise.resolve(Response.json({ bands: [], band_lifts: 3, band_needs: 8 })))
    const page = table({ ...lift, kind: 'snatch' } as Lift, true)
    await flushPromises()
    expect(page.text()).toContain('from 8 made lifts')
    expect(page.find('.usual').exists()).toBe(false)
  })
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
  it('can be kept as files, pictures and film of this one of its lifts', () => {
    expect(
      table()
        .findAll('a[download], [data-film]')
        .map((one) => one.attributes('href') ?? one.attributes('data-film')),
    ).toEqual(
      [
        'positions.png?lift=1',
        'positions.pdf?lift=1',
        'drawn.mp4?lift=1',
        'bar.csv',
        'joints.trc',
        'joints.c3d',
        'notes.vtt',
        'analysis.json',
      ].map((file) => `/api/clips/clip-1/${file}`),
    )
  })
})
