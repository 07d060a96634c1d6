import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Bench } from '@/api/client'
import { Refusal } from '@/api/refusal'
import { seenOf } from '@/api/seen'
import { useBench } from './bench'

const answers: { give: (bench: Bench) => void; refuse: (error: Error) => void }[] = []

vi.mock('@/api/client', () => ({
  api: { PUT: () => null, GET: () => null, POST: () => null, DELETE: () => null },
  ask: () => new Promise((give, refuse) => answers.push({ give, refuse })),
}))

const told = (x: number, points: Bench['disc_points'] = []) =>
  ({
    document: {
      disc: { x_px: [1, x, 3], y_px: [4, 5, 6] },
      joints: { nose: { x_px: [0, 0, 0], y_px: [0, 0, 0] } },
      lifts: [{ kind: 'clean' }],
    },
    by_hand: { lift: 'clean', load: 82.5 },
    disc_points: points,
    joint_points: [],
    corrections: [],
  }) as unknown as Bench

const settled = () => new Promise((done) => setTimeout(done))

/** A clip lies on the bench. */
function laid() {
  setActivePinia(createPinia())
  answers.length = 0
  const bench = useBench()
  bench.clip = { id: 'one' } as never
  bench.bench = told(2)
}

describe('a change by hand', () => {
  beforeEach(laid)

  it('shows at once, before what follows from it is worked out', async () => {
    const bench = useBench()
    const done = bench.moveDisc(1, 20, 50)
    await settled()
    expect(bench.bench?.document.disc.x_px).toEqual([1, 20, 3])
    expect(bench.bench?.disc_points).toEqual([{ frame: 1, x_px: 20, y_px: 50 }])
    answers[0]!.give(told(20.5))
    await done
    expect(bench.bench?.document.disc.x_px).toEqual([1, 20.5, 3])
    expect(bench.saving).toBe(false)
  })

  it('is taken back when it is refused, with the reason', async () => {
    const bench = useBench()
    const done = bench.moveJoint(2, 'nose', 7, 8)
    await settled()
    expect(bench.bench?.document.joints.nose?.x_px).toEqual([0, 0, 7])
    answers[0]!.refuse(new Error('This frame is outside the clip.'))
    await done
    expect(bench.bench).toEqual(told(2))
    expect(bench.trouble).toBe('This frame is outside the clip.')
  })

  it('waits for the one before it, so that the last answer tells all of them', async () => {
    const bench = useBench()
    const both = [bench.moveDisc(1, 20, 50), bench.moveDisc(1, 30, 50)]
    await settled()
    expect(answers).toHaveLength(1)
    expect(bench.bench?.document.disc.x_px).toEqual([1, 30, 3])
    answers[0]!.give(told(20))
    await settled()
    expect(bench.bench?.document.disc.x_px).toEqual([1, 30, 3])
    answers[1]!.give(told(30))
    await Promise.all(both)
    expect(bench.bench?.document.disc.x_px).toEqual([1, 30, 3])
  })

  it('of what was lifted is said of the clip, too, and leaves no lift on show that is not there', async () => {
    const bench = useBench()
    bench.clip = { id: 'one', lift: 'clean_and_jerk', load: 80 } as never
    bench.liftIndex = 1
    const done = bench.setByHand({ lift: 'clean', load: 82.5 })
    await settled()
    answers[0]!.give(told(2))
    await done
    expect(bench.clip).toEqual({ id: 'one', lift: 'clean', load: 82.5 })
    expect(bench.lift?.kind).toBe('clean')
  })
})

describe('a verdict', () => {
  beforeEach(laid)

  it('is on one of the lifts of a clip', () => {
    const bench = useBench()
    const lift = { kind: 'back_squat' }
    bench.bench = {
      ...told(2),
      document: { ...told(2).document, lifts: [lift, lift] },
      verdicts: [{ place: 1, fault: 'depth_short', decision: 'confirmed' }],
    } as unknown as Bench
    expect([...bench.verdicts.keys()]).toEqual([])
    bench.liftIndex = 1
    expect([...bench.verdicts.keys()]).toEqual(['depth_short'])
  })
})

describe('a clip that is opened', () => {
  const [figures, clip] = [0, 1]
  const measured = (id: string) => ({ id, measured: true }) as never

  beforeEach(laid)

  it('stands with its figures or not at all, and takes the one before away at once', async () => {
    const bench = useBench()
    const done = bench.open('two')
    expect([bench.clip, bench.bench]).toEqual([null, null])
    answers[clip]!.give(measured('two'))
    await settled()
    expect(bench.clip).toBe(null)
    answers[figures]!.give(told(5))
    await done
    expect(bench.clip?.id).toBe('two')
    expect(bench.bench).toEqual(told(5))
  })

  it('stands without figures while there are none, and says nothing of them', async () => {
    const bench = useBench()
    const done = bench.open('two')
    answers[figures]!.refuse(new Error('This clip has not been measured yet.'))
    answers[clip]!.give({ id: 'two', measured: false } as never)
    await done
    expect(bench.clip?.id).toBe('two')
    expect([bench.bench, bench.trouble]).toEqual([null, ''])
  })

  it('says so when its figures cannot be had', async () => {
    const bench = useBench()
    const done = bench.open('two')
    answers[clip]!.give(measured('two'))
    answers[figures]!.refuse(new Error('The server cannot be reached.'))
    await done
    expect([bench.clip, bench.trouble]).toEqual([null, 'The server cannot be reached.'])
  })

  it('gives way to one that was opened after it', async () => {
    const bench = useBench()
    const both = [bench.open('two'), bench.open('three')]
    answers[2]!.give(told(3))
    answers[3]!.give(measured('three'))
    answers[figures]!.give(told(2))
    answers[clip]!.give(measured('two'))
    await Promise.all(both)
    expect(bench.clip?.id).toBe('three')
    expect(bench.bench).toEqual(told(3))
  })

  it('leaves the one after it alone when it cannot be had', async () => {
    const bench = useBench()
    const both = [bench.open('two'), bench.open('three')]
    answers[2]!.give(told(3))
    answers[3]!.give(measured('three'))
    await both[1]
    answers[figures]!.refuse(new Error('The server cannot be reached.'))
    answers[clip]!.refuse(new Error('The server cannot be reached.'))
    await both[0]
    expect([bench.clip?.id, bench.trouble]).toEqual(['three', ''])
  })
})

describe('a change of what was changed elsewhere meanwhile', () => {
  beforeEach(laid)

  it('is not made; what it is now is shown, and it can be made after all', async () => {
    const bench = useBench()
    const done = bench.moveDisc(1, 20, 50)
    await settled()
    const theirs = {
      id: 7,
      turn: 7,
      what: 'disc:1',
      before: null,
      after: { x_px: 11, y_px: 50 },
      by: 'Maren',
      at: '2026-11-20T09:05:00',
    }
    answers[0]!.refuse(new Refusal('This was changed elsewhere.', { changed: [theirs] }))
    await settled()
    answers[1]!.give(told(11))
    await done
    expect(bench.bench?.document.disc.x_px).toEqual([1, 11, 3])
    expect(bench.trouble).toBe('')
    expect(bench.meanwhile?.changes).toEqual([theirs])
    expect(seenOf('/api/clips/one/disc/1')).toBe(7)
    const mine = bench.meanwhile!.mine()
    await settled()
    answers[2]!.give(told(20.5))
    await mine
    expect(bench.bench?.document.disc.x_px).toEqual([1, 20.5, 3])
  })
})

describe('looking again while the worker is at the clip', () => {
  const worked = { id: 'one', measured: true, job: { state: 'running' } } as never

  beforeEach(laid)

  it('brings what is new, and holds nobody up', async () => {
    const bench = useBench()
    const done = bench.again()
    expect(bench.saving).toBe(false)
    answers[0]!.give(worked)
    await settled()
    answers[1]!.give(told(7))
    await done
    expect(bench.bench?.document.disc.x_px).toEqual([1, 7, 3])
  })

  it('leaves the reason of a refusal where it stands', async () => {
    const bench = useBench()
    bench.trouble = 'The review of this lift is with Ida Fenn. Withdraw it first.'
    const done = bench.again()
    answers[0]!.give(worked)
    await settled()
    answers[1]!.give(told(7))
    await done
    expect(bench.trouble).toMatch(/Withdraw it first/)
  })

  it('does not take back what was changed meanwhile', async () => {
    const bench = useBench()
    const looked = bench.again()
    const moved = bench.moveDisc(1, 20, 50)
    await settled()
    answers[1]!.give(told(20.5))
    await moved
    answers[0]!.give(worked)
    await settled()
    answers[2]!.give(told(2))
    await looked
    expect(bench.bench?.document.disc.x_px).toEqual([1, 20.5, 3])
  })

  it('says when the server is lost, and no longer once it is back', async () => {
    const bench = useBench()
    const once = bench.again()
    answers[0]!.refuse(new Error('The server cannot be reached.'))
    await once
    expect(bench.trouble).toBe('The server cannot be reached.')
    const twice = bench.again()
    answers[1]!.give(worked)
    await settled()
    answers[2]!.give(told(7))
    await twice
    expect(bench.trouble).toBe('')
  })
})
