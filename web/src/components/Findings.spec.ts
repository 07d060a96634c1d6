import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { Bench, Finding, Lift } from '@/api/client'
import Findings from './Findings.vue'

const finding = (fault: string, more: Partial<Finding> = {}): Finding =>
  ({
    fault,
    name: fault,
    phase: 'first_pull',
    level: 'fault',
    probability: 0.97,
    watch_probability: 0.99,
    root: false,
    explains: [],
    says: 'The bar swings 3.4 cm forward.',
    cue: '',
    evidence: [{ measure: 'loop_out', value: 3.4, sd: 0.2, unit: 'cm', frame: 78, watch: 1, fault: 2, side: 'above' }],
    ...more,
  }) as Finding

const show = (
  findings: Finding[],
  verdicts: [string, { fault: string; decision: string; frame?: number }][] = [],
  limits: Bench['limits'] = [],
  more: Record<string, unknown> = {},
) =>
  mount(Findings, {
    props: {
      limits,
      lift: { findings, measures: {} } as unknown as Lift,
      verdicts: new Map(verdicts),
      catalogue: null,
      good: [],
      agreement: [],
      made: null,
      frame: 12,
      saving: false,
      ...more,
    },
  })

describe('findings', () => {
  it('show the number against its thresholds and lead to its frame', async () => {
    const page = show([finding('bar_looped')])
    expect(page.text()).toContain('3.4\u00a0± 0.2\u00a0cm')
    expect(page.text()).toContain('watch from 1.0\u00a0cm, fault from 2.0\u00a0cm')
    expect(page.get('.level').text()).toBe('fault, sure')
    expect(page.get('.level').attributes('title')).toBe('97 % sure')
    await page.get('[data-test=show]').trigger('click')
    expect(page.emitted('show')).toEqual([['bar_looped', 78]])
  })
  it("are judged by the coach's own limits, which are told beside the usual ones and taken back", async () => {
    const page = show([finding('bar_looped')])
    await page.get('[data-test=limits]').trigger('click')
    const [watch, fault] = page.findAll('.limits input[type=number]')
    await watch!.setValue(4)
    await fault!.setValue(5.5)
    await page.get('.limits input[type=checkbox]').setValue(true)
    await page.get('.limits form').trigger('submit')
    expect(page.emitted('limit')).toEqual([['bar_looped', 'loop_out', { watch: 4, fault_at: 5.5, everyone: true }]])
    const own = { fault: 'bar_looped', measure: 'loop_out', watch: 4, fault_at: 5.5, everyone: true }
    const told = show([finding('bar_looped')], [], [{ ...own, usual_watch: 1, usual_fault_at: 2, at: '2026-01-05' }])
    expect(told.text()).toContain('by your limits for everyone (usual: 1.0\u00a0cm, 2.0\u00a0cm)')
    await told.get('.limits .btn-link').trigger('click')
    expect(told.emitted('limit')).toEqual([['bar_looped', 'loop_out', null]])
  })
  it('mark the first cause and what it explains', () => {
    const page = show([
      finding('bar_forward_off_floor', { root: true, explains: ['bar_looped'] }),
      finding('bar_looped'),
    ])
    expect(page.findAll('.first')).toHaveLength(1)
    expect(page.text()).toContain('Leads to: bar looped')
  })
  it('put three forward at most, and let the others wait below', async () => {
    const page = show(['one', 'two', 'three', 'four', 'five'].map((name) => finding(name)))
    expect(page.findAll('article').map((one) => one.attributes('data-fault'))).toEqual(['one', 'two', 'three'])
    const waiting = page.get('[data-test=waiting]')
    expect(waiting.text()).toContain('2 more that can wait')
    await waiting
      .findAll('button')
      .find((one) => one.text() === 'Confirm')!
      .trigger('click')
    expect(page.emitted('decide')).toEqual([['four', 'confirmed', null]])
  })
  it('begin with what deserves to be said', () => {
    const fine = (name: string) => finding(name, { level: 'fine', says: `${name} is good` })
    const page = show([fine('plain'), fine('just_inside')], [], [], { good: ['plain'] })
    expect(page.findAll('.good').map((one) => one.text())).toEqual(['Good: plain is good'])
  })
  it('tell the chain of causes in one sentence where there is more than one link', () => {
    const story = (faults: string[]) => ({
      lift: { findings: [], measures: {}, story: { faults, says: 'Tips → loops.' } },
    })
    expect(
      show([], [], [], story(['tips', 'loops']))
        .get('[data-test=story]')
        .text(),
    ).toBe('Tips → loops.')
    expect(
      show([], [], [], story(['tips']))
        .find('[data-test=story]')
        .exists(),
    ).toBe(false)
  })
  it("name the coach's own answer that had a part in a verdict", () => {
    const schools = [{ question: 'landing_feet', asks: 'Feet in the catch', says: 'No jump' }]
    expect(show([finding('jumped_forward', { schools })]).text()).toContain(
      'By your answer to “Feet in the catch”: no jump',
    )
  })
  it('ask about a rule that the coach keeps overruling', () => {
    const counted = (confirmed: number, dismissed: number) => ({
      agreement: [{ fault: 'bar_looped', confirmed, dismissed, added: 0 }],
    })
    expect(
      show([finding('bar_looped')], [], [], counted(2, 7))
        .get('[data-test=overruled]')
        .text(),
    ).toContain('7 of 9')
    expect(
      show([finding('bar_looped')], [], [], counted(7, 5))
        .find('[data-test=overruled]')
        .exists(),
    ).toBe(false)
    expect(
      show([finding('bar_looped')], [], [], counted(0, 4))
        .find('[data-test=overruled]')
        .exists(),
    ).toBe(false)
  })
  it('propose the outcome where the coach said nothing or something else, and take it up', async () => {
    const seen = (made: boolean | null) => ({
      made,
      lift: { findings: [], measures: {}, outcome: { made: false, how: 'forward' } },
    })
    const page = show([], [], [], seen(null))
    expect(page.get('[data-test=outcome]').text()).toContain('looks like a miss in front')
    await page.get('[data-test=outcome] button').trigger('click')
    expect(page.emitted('made')).toEqual([[false]])
    expect(show([], [], [], seen(true)).find('[data-test=outcome]').exists()).toBe(true)
    expect(show([], [], [], seen(false)).find('[data-test=outcome]').exists()).toBe(false)
  })
  it('say why referees may refuse a lift, but not of one that was missed, nor what the coach dismissed', () => {
    const catalogue = {
      faults: [{ id: 'pressed_out', name: 'Pressed out', refusable: true }, { id: 'bar_looped' }],
      measures: [],
    }
    const found = [finding('pressed_out', { name: 'Pressed out' }), finding('bar_looped', { name: 'Bar looped' })]
    const line = (more: object, verdicts: [string, { fault: string; decision: string }][] = []) => {
      const told = show(found, verdicts, [], { catalogue, ...more }).find('[data-test=refusable]')
      return told.exists() ? told.text() : ''
    }
    expect(line({})).toBe('Referees may refuse this lift: pressed out. This is an aid; rules and referees decide.')
    expect(line({ made: false })).toBe('')
    expect(line({}, [['pressed_out', { fault: 'pressed_out', decision: 'dismissed' }]])).toBe('')
  })
  it('take what the coach sees by the first letters of its name, at the frame on show', async () => {
    const fault = (id: string, name: string, kinds: string[] = []) => ({
      id,
      name,
      kinds,
      phase: 'catch',
      measured: false,
      seen_by_coach: true,
    })
    const catalogue = {
      faults: [
        fault('breath_lost', 'Breath lost'),
        fault('head_forward', 'Head pushed forward', ['jerk']),
        fault('feet_run', 'Feet run', ['snatch']),
      ],
      measures: [],
    }
    const page = show([], [], [], { catalogue, lift: { kind: 'jerk', findings: [], measures: {} } })
    await page.get('[data-test=add-own]').trigger('click')
    // Of those that a lift of this kind can have.
    const offered = page.findAll('datalist option').map((one) => one.attributes('value'))
    expect(offered).toEqual(['Breath lost', 'Head pushed forward'])
    await page.get('#own').setValue('breath')
    expect(page.get('form .btn-primary').attributes('disabled')).toBeDefined()
    await page.get('#own').setValue('breath lost')
    await page.get('form').trigger('submit')
    expect(page.emitted('decide')).toEqual([['breath_lost', 'added', 12]])
    expect(page.find('#own').exists()).toBe(false)
  })
  it('let the coach decide and take the decision back', async () => {
    const page = show([finding('bar_looped')])
    await page
      .findAll('footer button')
      .find((one) => one.text() === 'Confirm')!
      .trigger('click')
    expect(page.emitted('decide')).toEqual([['bar_looped', 'confirmed', null]])
    const decided = show([finding('bar_looped')], [['bar_looped', { fault: 'bar_looped', decision: 'confirmed' }]])
    expect(decided.text()).toContain('confirmed by you')
    await decided
      .findAll('footer button')
      .find((one) => one.text() === 'Take back')!
      .trigger('click')
    expect(decided.emitted('takeBack')).toEqual([['bar_looped']])
  })
  it('never call a dismissed finding the first cause', () => {
    const dismissed = [['bar_looped', { fault: 'bar_looped', decision: 'dismissed' }]] as never
    expect(
      show([finding('bar_looped', { root: true })], dismissed)
        .find('.first')
        .exists(),
    ).toBe(false)
  })
  it('say plainly that nothing was found, how many checks were not possible, and why', () => {
    const findings = [finding('bar_crashed', { level: 'cannot_tell', says: 'Can’t tell: no stature.', evidence: [] })]
    const verdict = {
      headline: 'No fault found · 1 of 20 checks not possible from this film',
      checks: 20,
      not_possible: 1,
      why: [{ reason: 'the feet are out of the picture', checks: 1 }],
    }
    const page = show(findings, [], [], { lift: { findings, measures: {}, verdict } })
    expect(page.get('[data-test=headline]').text()).toBe('No fault found · 1 of 20 checks not possible from this film')
    // Never a bare green light.
    expect(page.get('[data-test=headline] .sign').classes()).toContain('cannot_tell')
    expect(page.get('[data-test=unable]').text()).toContain('The feet are out of the picture: 1')
  })
  it('ask once about the cause when an effect is confirmed without it', async () => {
    const chain = [
      finding('bar_forward_off_floor', { root: true, explains: ['bar_looped', 'banged_away'] }),
      finding('bar_looped'),
      finding('banged_away'),
    ]
    const page = show(chain)
    const press = (fault: string, name: string) =>
      page
        .get(`[data-fault=${fault}]`)
        .findAll('button')
        .find((one) => one.text() === name)!
        .trigger('click')
    await press('bar_looped', 'Confirm')
    expect(page.emitted('decide')).toBeUndefined()
    expect(page.get('[data-test=cause]').text()).toContain('This follows from “bar forward off floor”')
    await press('bar_looped', 'Confirm both')
    expect(page.emitted('decide')).toEqual([
      ['bar_looped', 'confirmed', null],
      ['bar_forward_off_floor', 'confirmed', null],
    ])
    await press('banged_away', 'Confirm')
    expect(page.emitted('decide')).toHaveLength(3)
  })
  it('show which is to be fixed first, what is a link in the chain and what a separate issue', () => {
    const page = show([
      finding('one', { root: true, explains: ['two'] }),
      finding('two', { level: 'watch', link: true }),
      finding('three', { root: true, separate: true }),
    ])
    const told = page.findAll('header').map((one) => one.text())
    expect(told[0]).toContain('fix this first')
    expect(told[1]).toContain('link in the chain')
    expect(told[2]).toContain('separate issue')
  })
  it('say that the chain is read again while it is', () => {
    expect(show([], [], [], { saving: true }).get('[data-test=working]').text()).toBe('Reading the chain again …')
    expect(show([]).get('[data-test=working]').text()).toBe('')
  })
})
