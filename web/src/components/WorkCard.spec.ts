import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import WorkCard, { type WorkSlot } from './WorkCard.vue'
import { shownClip } from './shown'

const PIECE = {
  id: 7,
  assignment: 3,
  on: '2026-03-02',
  exercise: 'pull_pause_knee',
  lift: 'snatch',
  name: 'Snatch pull with a 3 s pause at the knee',
  how: 'Lift slowly to the knee.',
  cue: 'Hold the shape.',
  cautions: ['Loads the low back.'],
  sets: 3,
  reps: 3,
  percent: 60,
  basis: 'snatch',
  unit: 'kg',
  total: 48,
  per_side: [10, 2.5, 1.5],
  load: '',
  pause_s: 3,
  rest_s: 150,
  film: 'side',
  light: false,
  withheld: '',
  done_sets: null,
  done_key: null,
} as WorkSlot
const show = (piece: Partial<WorkSlot> = {}, more = {}) =>
  mount(WorkCard, { props: { piece: { ...PIECE, ...piece }, entered: null, stopped: false, sending: false, ...more } })

describe('a piece of work', () => {
  it('says what goes on the bar and sends what is ticked as it is ticked', async () => {
    const card = show()
    expect(card.text()).toContain('3 × 3 at 48 kg')
    expect(card.text()).toContain('Each side: 10 kg + 2.5 kg + 1.5 kg')
    await card.get('[aria-label="Repetitions missed in set 2"]').setValue(1)
    await card.get('[aria-label="Set 2 done"]').trigger('click')
    await card.get('[aria-label="Hook kept in set 2"]').setValue(true)
    expect(card.emitted('entered')!.at(-1)).toEqual([
      [{ load: 48, unit: 'kg', reps: 3, missed: 1, rpe: null, hook: true }],
    ])
    await card.get('[aria-label="Set 2 done"]').trigger('click')
    expect(card.emitted('entered')!.at(-1)).toEqual([[]])
  })
  it('does not tell what was emptied', async () => {
    const card = show()
    await card.get('[aria-label="Load of set 1"]').setValue('')
    await card.get('[aria-label="Set 1 done"]').trigger('click')
    expect(card.emitted('entered')!.at(-1)).toEqual([[expect.objectContaining({ load: null, rpe: null })]])
  })
  it('begins where it was left', () => {
    const card = show({}, { entered: [{ load: 50, unit: 'kg', reps: 2, missed: 1, rpe: 8, hook: null }] })
    expect(card.get('[aria-label="Set 1 done"]').attributes('aria-pressed')).toBe('true')
    expect(card.get('[aria-label="Set 2 done"]').attributes('aria-pressed')).toBe('false')
    expect((card.get('[aria-label="Load of set 1"]').element as HTMLInputElement).value).toBe('50')
  })
  it('gives way to pain and to a bruise', () => {
    expect(show({}, { stopped: true }).find('[aria-label="Set 1 done"]').exists()).toBe(false)
    const bruised = show({ withheld: 'Left out while the bruise heals.' })
    expect(bruised.text()).toContain('bruise heals')
    expect(bruised.find('[aria-label="Set 1 done"]').exists()).toBe(false)
  })
  it('times a hold only where one is asked for', () => {
    expect(show().find('[data-test=hold]').exists()).toBe(true)
    expect(show({ pause_s: 0 }).find('[data-test=hold]').exists()).toBe(false)
  })
  it('shows the words where no share of a best says what to take', () => {
    expect(show({ total: null, per_side: [], load: 'stick' }).text()).toContain('3 × 3, stick')
  })
})

describe('the hold timer', () => {
  it('says how much was missing', async () => {
    let at = 0
    vi.spyOn(performance, 'now').mockImplementation(() => at)
    const timer = show().get('[data-test=hold]')
    await timer.trigger('click')
    at = 2400
    await timer.trigger('click')
    expect(timer.text()).toContain('2.4 s')
    expect(timer.text()).toContain('0.6 s short')
    await timer.trigger('click')
    at = 5500
    await timer.trigger('click')
    expect(timer.text()).toContain('held')
    vi.restoreAllMocks()
  })
})

describe('what right looks like', () => {
  it.each([
    ['pull_pause_knee', 'clean', 'pull_pause_knee-clean.mp4'],
    ['front_squat', 'jerk', 'front_squat-clean.mp4'],
    ['power_lift', 'jerk', null],
    ['hook_grip_setup', 'clean', 'hook_grip_setup-snatch.mp4'],
    ['plank', 'snatch', null],
  ])('%s for a %s', (exercise, lift, file) => {
    const found = shownClip(exercise, lift)
    expect(found?.split('/').at(-1) ?? null).toBe(file)
  })
})
