import { describe, expect, it } from 'vitest'
import type { AnalysisDocument, Lift } from '@/api/client'
import { barReading, curve, gridLines, limitsOn, onClock, upright } from './curves'
import { angleOf, outline, thinned } from './marks'

/** A lifter of straight lines: hip over ankle, trunk 45° ahead, 1 cm a pixel. */
function filmed(facing: 'left' | 'right', plumb_deg = 0, kind = 'side'): AnalysisDocument {
  const way = facing === 'right' ? 1 : -1
  const places: Record<string, [number, number]> = {
    ankle: [0, 0],
    heel: [-6, -8],
    knee: [0, 40],
    hip: [0, 80],
    shoulder: [50, 130],
  }
  const lean = (plumb_deg * Math.PI) / 180
  const joints = Object.fromEntries(
    Object.entries(places).map(([part, [x, y]]) => {
      // Upright places turned into the picture of a phone that leans.
      const [u, v] = [way * x, -y]
      const px = { x_px: [u * Math.cos(lean) - v * Math.sin(lean)], y_px: [u * Math.sin(lean) + v * Math.cos(lean)] }
      return [`${facing}_${part}`, { ...px, sd_cm: [2] }]
    }),
  )
  return {
    clip: { facing, view: { kind }, frame_time_s: [0] },
    scale: { m_per_px: 0.02, body_m_per_px: 0.01, plumb_deg },
    joints,
  } as unknown as AnalysisDocument
}
const LIFT = {
  bar: { first_frame: 0, time_s: [0], x_m: [0.03], y_m: [0.5], vy_m_s: [1.2], ay_m_s2: [4.905] },
  findings: [
    { evidence: [{ measure: 'trunk_angle@bottom', frame: 0, watch: 65, fault: 55, side: 'below' }] },
    { evidence: [{ measure: 'trunk_angle@bottom', frame: 0, watch: null, fault: null, side: 'below' }] },
  ],
} as unknown as Lift

describe('curves of a lift', () => {
  it.each(['front', 'back'])('tell no angle of a lifter seen from the %s', (kind) => {
    const lift = { ...LIFT, bar: { ...LIFT.bar, x_m: [null], vy_m_s: [null] } } as unknown as Lift
    for (const id of ['trunk', 'hip', 'knee', 'heel', 'aside', 'speed'] as const)
      expect(curve(id, filmed('right', 0, kind), lift).values).toEqual([null])
    expect(curve('height', filmed('right', 0, kind), lift).values).toEqual([50])
  })

  it('tell balance with its doubt, and how loud it is where that was asked for', () => {
    const lift = { ...LIFT, balance: { x_m: [-0.02], sd_m: [0.01] } } as unknown as Lift
    expect(curve('balance', filmed('right'), lift)).toEqual({ values: [-2], sd: [1] })
    expect(curve('balance', filmed('right'), LIFT).values).toEqual([null])
    expect(curve('sound', filmed('right'), LIFT, [0.25]).values).toEqual([25])
    expect(curve('sound', filmed('right'), LIFT).values).toEqual([null])
  })
  it.each(['right', 'left'] as const)('tell angles of a lifter who faces %s, in a phone that leans', (facing) => {
    for (const lean of [0, 3]) {
      const analysis = filmed(facing, lean)
      expect(curve('trunk', analysis, LIFT).values[0]).toBeCloseTo(45)
      expect(curve('hip', analysis, LIFT).values[0]).toBeCloseTo(135)
      expect(curve('knee', analysis, LIFT).values[0]).toBeCloseTo(180)
      // 2 cm at either end of 70.7 cm.
      expect(curve('trunk', analysis, LIFT).sd![0]).toBeCloseTo((Math.hypot(2, 2) / Math.hypot(50, 50)) * 57.2958)
      expect(upright(analysis, 'shoulder', 0)).toMatchObject({ x: expect.closeTo(50), y: expect.closeTo(130) })
    }
  })
  it('tell force as a share of what the bar weighs, and nothing of a joint that is not known', () => {
    expect(curve('force', filmed('right'), LIFT).values[0]).toBeCloseTo(150)
    expect(curve('elbow', filmed('right'), LIFT).values).toEqual([null])
  })
  it('carry the limits that a finding knows, at the time of its number', () => {
    expect(limitsOn('trunk', filmed('right'), LIFT)).toEqual([{ time: 0, watch: 65, fault: 55, above: false }])
    expect(limitsOn('knee', filmed('right'), LIFT)).toEqual([])
  })
  it('lie on the clock of another lift, and nowhere beyond their own', () => {
    const other = { bar: { time_s: [1, 2, 3] } } as unknown as Lift
    const at = onClock([0, 0.25, 1, 1.5, 5], other, [10, 20, null], (time) => 2 * time + 0.5)
    expect(at).toEqual([null, 10, null, null, null])
    expect(onClock([0.5], other, [10, 20, 40], (time) => 2 * time + 0.5)[0]).toBeCloseTo(15)
  })
})

describe('marks', () => {
  it('tell the angle between two arms', () => {
    expect(angleOf([[10, 0], [0, 0], [0, 10]])).toBeCloseTo(90) // prettier-ignore
    expect(angleOf([[10, 0], [0, 0], [-10, 0]])).toBeCloseTo(180) // prettier-ignore
  })
  it('keep both ends of a long stroke, and a short one whole', () => {
    const long = Array.from({ length: 1203 }, (_, index) => [index, 0])
    const kept = thinned(long)
    expect(kept.length).toBeLessThanOrEqual(400)
    expect([kept[0], kept.at(-1)]).toEqual([long[0], long[1202]])
    expect(thinned(long.slice(0, 400))).toHaveLength(400)
  })
  it('are drawn as what they are', () => {
    expect(outline('circle', [[5, 5], [8, 9]], 1)).toContain('a5 5') // prettier-ignore
    expect(outline('arrow', [[0, 0], [9, 0]], 3).match(/M/g)).toHaveLength(2) // prettier-ignore
    expect(outline('stroke', [[0, 0], [1, 1], [2, 1]], 1)).toBe('M0 0L1 1L2 1') // prettier-ignore
  })
})

describe('where the bar is, in words', () => {
  const lift = (from: string, y: number, x: number | null = -0.031) =>
    ({ from, bar: { first_frame: 40, x_m: [x], y_m: [y], vy_m_s: [-0.5] } }) as unknown as Lift
  it.each([
    ['floor', 0.829, '82.9 cm high'],
    ['rack', -0.69, '69.0 cm below its start'],
    ['blocks', 0.12, '12.0 cm above its start'],
  ])('from the %s', (from, y, height) => expect(barReading(lift(from, y), 40)!.height).toBe(height))
  it('tells how far to the side and how fast', () => {
    expect(barReading(lift('floor', 0.8), 40)).toMatchObject({ aside: '3.1 cm back', speed: '0.50 m/s down' })
    expect(barReading(lift('floor', 0.8, null), 40)!.aside).toBe('')
  })
  it('is nothing where it was not seen', () => expect(barReading(lift('floor', 0.8), 41)).toBeNull())
})

describe('the lines across a trace', () => {
  it.each([
    [-50, 5, 20, [-40, -20, 0]],
    [-0.7, 0.75, 1, [-0.5, 0, 0.5]],
    [0.1, 0.35, 0.1, [0.1, 0.2, 0.3]],
  ])('from %s to %s', (low, high, step, lines) =>
    expect(gridLines(low, high, step).map((one) => one + 0)).toEqual(lines),
  )
})
