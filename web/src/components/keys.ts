/** Whether a key belongs to what it was pressed in: what is typed, chosen, slid or pressed there. */
export function taken(e: KeyboardEvent): boolean {
  if (e.ctrlKey || e.metaKey || e.altKey) return true
  const { tagName, type } = e.target as HTMLInputElement
  if (tagName === 'INPUT') {
    if (type === 'checkbox') return e.key === ' '
    // Sliders and rings go by arrows; letters are nothing to them.
    return !['range', 'radio'].includes(type) || /^(Arrow|Home|End|Page| )/.test(e.key)
  }
  if (/^(BUTTON|SUMMARY|A)$/.test(tagName)) return e.key === ' ' || e.key === 'Enter'
  return /^(SELECT|TEXTAREA)$/.test(tagName)
}
