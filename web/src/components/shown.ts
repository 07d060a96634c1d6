/** Which exercises have a short simulated clip that shows them done well; the files lie in `public/shown`. */
const FILES = new Set([
  'pull_pause_knee-snatch',
  'pull_pause_knee-clean',
  'halting_pull_mid_thigh-snatch',
  'halting_pull_mid_thigh-clean',
  'brush_deadlift-snatch',
  'brush_deadlift-clean',
  'pull_blocks_knee-snatch',
  'pull_blocks_knee-clean',
  'pull_from_floor-snatch',
  'pull_from_floor-clean',
  'high_pull-snatch',
  'high_pull-clean',
  'power_lift-snatch',
  'power_lift-clean',
  'overhead_squat-snatch',
  'front_squat-clean',
  'back_squat-clean',
  'overhead_squat_pause-snatch',
  'front_squat_pause-clean',
  'back_squat_pause-clean',
  'jerk_dip_hold-jerk',
  'power_jerk_drill-jerk',
  'split_hold-jerk',
  'hook_grip_setup-snatch',
  'rack_place-clean',
  'bail_practice-snatch',
])

/** The clip of an exercise for a lift; one that is the same for every lift is found under the lift it was filmed for. */
export function shownClip(exercise: string, lift: string): string | null {
  const same = /^((front|back|overhead)_squat(_pause)?|hook_grip_setup|rack_place)$/.test(exercise)
  const name = [`${exercise}-${lift}`, ...(same ? [`${exercise}-clean`, `${exercise}-snatch`] : [])].find((one) =>
    FILES.has(one),
  )
  return name ? `${import.meta.env.BASE_URL}shown/${name}.mp4` : null
}
