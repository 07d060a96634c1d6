import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import Warnings from './Warnings.vue'

const OFFERED = [
  { code: 'another_kind', offer: { lift: 'power_clean' }, button: 'Take it as power clean' },
  { code: 'slow_motion', offer: { capture_rate_hz: 239.76 }, button: 'Set 240 frames a second' },
  { code: 'much_outside', offer: { trim: [40, 300] as [number, number] }, button: 'Trim to frames 40 to 300' },
  { code: 'facing_unsure', offer: { facing: 'left' as const }, button: 'Turn round' },
]
const show = (warnings: InstanceType<typeof Warnings>['$props']['warnings'], saving = false) =>
  mount(Warnings, { props: { warnings, saving } })

describe('what makes an analysis doubtful', () => {
  it('is said, and where nothing mends it nothing is offered', () => {
    const page = show([{ code: 'disc_hidden', message: 'The disc was out of sight for 4 frames.' }])
    expect(page.text()).toBe('The disc was out of sight for 4 frames.')
    expect(page.find('button').exists()).toBe(false)
  })

  it.each(OFFERED)('is mended by one click: $button', async ({ code, offer, button }) => {
    const page = show([{ code, message: 'So it is.', offer }])
    expect(page.get('button').text()).toBe(button)
    await page.get('button').trigger('click')
    expect(page.emitted('take')).toEqual([[offer]])
  })

  it('waits while something is being saved', () => {
    const page = show([{ code: 'another_kind', message: 'So it is.', offer: { lift: 'snatch' } }], true)
    expect(page.get('button').attributes('disabled')).toBeDefined()
  })
})
