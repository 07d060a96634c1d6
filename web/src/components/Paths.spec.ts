import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'
import type { Lift } from '@/api/client'
import Paths from './Paths.vue'

const lift = (from: string, ys: number[]) =>
  ({
    from,
    start_frame: 0,
    end_frame: ys.length - 1,
    events: {},
    bar: { first_frame: 0, x_m: ys.map(() => 0), y_m: ys },
  }) as unknown as Lift

it.each([
  ['floor', [0.22, 0.7], ['0 cm', '50 cm', '100 cm']],
  ['rack', [0, -0.47], ['−40 cm', '−20 cm', '0 cm']],
])('a path from the %s has its heights', (from, ys, heights) => {
  const page = mount(Paths, { props: { lifts: [{ lift: lift(from, ys), frame: 0 }] } })
  expect(page.findAll('text').map((one) => one.text())).toEqual(heights)
})
