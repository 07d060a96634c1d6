/** What a coach may say was lifted, in the groups it is chosen from. */
export const LIFTS = {
  Lifts: ['snatch', 'clean', 'jerk', 'clean_and_jerk', 'power_snatch', 'power_clean', 'power_jerk', 'push_press'],
  Pulls: ['snatch_pull', 'clean_pull', 'high_pull', 'deadlift'],
  Squats: ['front_squat', 'back_squat', 'overhead_squat'],
  'Axle and press': ['continental_clean', 'continental_clean_and_press', 'press'],
  'In one set': [
    'two_cleans_and_jerk',
    'clean_and_two_jerks',
    'clean_front_squat_and_jerk',
    'snatch_pull_and_snatch',
    'clean_pull_and_clean',
    'snatch_and_overhead_squat',
  ],
  Else: ['other'],
}

/** Single lifts, as a fault can occur in them. */
export const LIFT_KINDS = [
  'snatch',
  'power_snatch',
  'muscle_snatch',
  'clean',
  'power_clean',
  'muscle_clean',
  'split_jerk',
  'power_jerk',
  'squat_jerk',
  'push_press',
  'press',
  'snatch_pull',
  'clean_pull',
  'high_pull',
  'deadlift',
  'overhead_squat',
  'front_squat',
  'back_squat',
  'continental_clean',
]

/** What is made or missed; a pull or a squat is neither. */
export const ATTEMPTS = new Set([
  ...LIFTS.Lifts.filter((lift) => lift !== 'push_press'),
  'continental_clean',
  'continental_clean_and_press',
  ...LIFTS['In one set'],
])
