import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { Handed } from '@/api/client'
import HandedReview from './HandedReview.vue'

const review: Handed = {
  athlete: 'Ida Fenn',
  lift: 'snatch',
  load: 76,
  load_unit: 'kg',
  made: true,
  filmed_on: '2026-11-16',
  good: ['The bar was met early (5.8 cm of fall).'],
  points: [
    {
      fault: 'bar_forward_off_floor',
      name: 'Bar swings forward off the floor',
      says: 'The bar swings 3.3 cm forward.',
      cue: 'Knees back, bar to you.',
      frame: 72,
      drawing: {
        width: 1280,
        height: 720,
        path: [
          [630, 560],
          [645, 520],
        ],
        plumb_x: 630,
        bar: [645, 520],
        radius: 68,
      },
    },
    { fault: 'bar_looped', name: 'Bar loops', says: 'It loops 17.7 cm.', cue: '', frame: null, drawing: null },
  ],
  words: 'Strong session.',
  tasks: [
    {
      name: 'Halting snatch pull to the knee',
      how: 'Lift to the knee and hold.',
      cue: 'Hold the shape.',
      cautions: ['Loads the low back: once a week, begin light.'],
      film: 'side',
      pause_s: 3,
      rest_s: 150,
      sets: 4,
      reps: 3,
      percent: 70,
      basis: 'snatch',
      per_week: 1,
      weeks: 4,
      unit: 'kg',
      total: 56,
      per_side: [15, 2.5, 0.5],
      load: '',
      note: '',
    },
  ],
  film_next: 'From the side.',
}
const read = (of: Handed = review) =>
  mount(HandedReview, {
    props: {
      review: of,
      pictures: (place) => `/pictures/${place}.jpg`,
      moment: (frame) => `/moments/${frame}.jpg`,
      voice: (note) => `/voices/${note}.m4a`,
      film: (note) => `/films/${note}.mp4`,
    },
  })

describe('what the athlete reads', () => {
  it('begins with what was good and then the first thing to work on', () => {
    const headings = read()
      .findAll('h2')
      .map((one) => one.text())
    expect(headings.slice(0, 3)).toEqual(['What was good', 'First, work on this', 'Then'])
    expect(read().text()).toContain('Snatch, 76 kg, made')
    expect(read().text()).toContain('16 November')
  })
  it('shows the first point with its picture, cut to the lifter, and the bar where it is', () => {
    const page = read()
    expect(page.get('image').attributes('href')).toBe('/pictures/0.jpg')
    const [x, y, width, height] = page.get('figure svg').attributes('viewBox')!.split(' ').map(Number)
    expect(x! <= 645 && 645 <= x! + width!).toBe(true)
    expect(y! <= 520 && 520 <= y! + height!).toBe(true)
    expect(width!).toBeLessThan(1280)
    expect(page.get('circle.bar').attributes('cx')).toBe('645')
  })
  it('has the whole lifter in the picture, under a bar overhead too', () => {
    const drawing = {
      ...review.points[0]!.drawing!,
      path: [[640, 100]],
      bar: [640, 100],
      lifter: [
        [640, 140],
        [600, 690],
      ],
    }
    const page = read({ ...review, points: [{ ...review.points[0]!, drawing }] })
    const [, y, , height] = page.get('figure svg').attributes('viewBox')!.split(' ').map(Number)
    expect(y! <= 40 && y! + height! >= 690).toBe(true)
  })
  it('does without a picture where there is none', () => {
    const plain = { ...review, points: [{ ...review.points[0]!, frame: null, drawing: null }] }
    expect(read(plain).find('figure svg').exists()).toBe(false)
    expect(read(plain).text()).toContain('Knees back, bar to you.')
  })
  it('draws what was measured into the picture of each point, without a number', () => {
    const drawing = {
      ...review.points[0]!.drawing!,
      line: [
        [630, 520],
        [645, 520],
      ],
    }
    const page = read({ ...review, points: review.points.map((point) => ({ ...point, drawing })) })
    expect(page.findAll('image').map((one) => one.attributes('href'))).toEqual(['/pictures/0.jpg', '/pictures/1.jpg'])
    expect(page.findAll('[data-test=measured]').map((one) => one.attributes('points'))).toEqual(
      Array(2).fill('630,520 645,520'),
    )
    expect(page.get('figcaption').text()).not.toMatch(/\d/)
  })
  it('lets what the coach said be heard, and what was shown meanwhile be seen once it is there', () => {
    const notes = [
      { time_s: 1.5, frame: 90, words: '', voice: 7, film: false },
      { time_s: 2, frame: 120, words: 'Wait.', voice: null },
    ]
    const page = read({ ...review, notes })
    expect(page.findAll('audio').map((one) => one.attributes('src'))).toEqual(['/voices/7.m4a'])
    const later = read({ ...review, notes: [{ ...notes[0]!, film: true }] })
    expect(later.find('audio').exists()).toBe(false)
    const { src, poster } = later.get('video').attributes()
    expect([src, poster]).toEqual(['/films/7.mp4', '/moments/90.jpg'])
  })
  it('shows what the coach drew where it was drawn, with the whole of it in the picture', () => {
    const marks = [
      {
        shape: 'arrow' as const,
        ink: 'amber' as const,
        points: [
          [100, 20],
          [645, 500],
        ],
      },
    ]
    const drawing = { ...review.points[0]!.drawing!, marks }
    const page = read({ ...review, points: [], notes: [{ time_s: 1, frame: 60, words: '', voice: null, drawing }] })
    expect(page.get('.moment image').attributes('href')).toBe('/moments/60.jpg')
    expect(page.get('[data-mark=arrow]').classes()).toContain('amber')
    const [x, y] = page.get('.moment svg').attributes('viewBox')!.split(' ').map(Number)
    expect(x! <= 100 && y! <= 20).toBe(true)
  })
  it('has the work with kilos, discs of one side, and its cautions beside it', () => {
    const task = read().get('.task')
    expect(task.text()).toContain('4 sets of 3')
    expect(task.text()).toContain('56 kg')
    expect(task.text()).toContain('Each side: 15 kg + 2.5 kg + 0.5 kg')
    expect(task.text()).toContain('once a week for 4 weeks')
    expect(task.get('.cautions').text()).toContain('Loads the low back')
  })
  it('says plainly when a load could not be worked out', () => {
    const without = { ...review, tasks: [{ ...review.tasks[0]!, total: null, per_side: [] }] }
    expect(read(without).get('.task').text()).toContain('No best is on record')
  })
  it('leaves out what there is nothing to say of', () => {
    const bare = { ...review, good: [], points: [], words: '  ', tasks: [] }
    const headings = read(bare)
      .findAll('h2')
      .map((one) => one.text())
    expect(headings).not.toContain('First, work on this')
    expect(headings).not.toContain('From your coach')
    expect(headings).not.toContain('Your work')
  })
})
