import { expect, it } from 'vitest'
import { taken } from './keys'

const pressed = (html: string, key: string, more: KeyboardEventInit = {}) => {
  document.body.innerHTML = html
  const event = new KeyboardEvent('keydown', { key, bubbles: true, ...more })
  let told = false
  document.body.addEventListener('keydown', (e) => (told = taken(e)), { once: true })
  document.body.firstElementChild!.dispatchEvent(event)
  return told
}

it.each([
  ['<input type="text">', 'l', true],
  ['<textarea></textarea>', 'l', true],
  ['<select></select>', 'l', true],
  ['<input type="range">', 'l', false],
  ['<input type="range">', 'ArrowRight', true],
  ['<input type="checkbox">', ' ', true],
  ['<input type="checkbox">', 'ArrowRight', false],
  ['<button></button>', 'ArrowRight', false],
  ['<button></button>', ' ', true],
  ['<div></div>', ' ', false],
])('in %s the key %j is its own: %s', (html, key, own) => expect(pressed(html, key)).toBe(own))
it('is not ours with a modifier', () => expect(pressed('<div></div>', 'z', { ctrlKey: true })).toBe(true))
