import { expect, it } from 'vitest'
import { saw, seenOf } from './seen'

it('remembers of every clip the last change that was seen, whatever came before it', () => {
  saw('one', [])
  expect(seenOf('http://x/api/clips/one/undo')).toBe(0)
  saw('one', [{ turn: 7 }, { turn: 4 }])
  saw('one', [{ turn: 5 }])
  expect(seenOf('http://x/api/clips/one/undo')).toBe(7)
  expect(seenOf('http://x/api/clips/other/undo')).toBeUndefined()
  expect(seenOf('http://x/api/athletes/3')).toBeUndefined()
})
