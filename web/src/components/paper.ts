import { onBeforeUnmount, onMounted, type Ref } from 'vue'

/** What both A4 and Letter have room for inside their margins, in millimetres. */
const WIDTH_MM = 184
const HEIGHT_MM = 250
const PX_PER_MM = 96 / 25.4
const SMALLEST = 0.5
const STEP = 0.04

/**
 * What is read on a phone is printed on one page: while the browser prints, the element has the class `paper` and `--small` between
 * 0.5 and 1, the largest at which all of it fits. A dark room's colours are not for paper.
 */
export function useOnePage(element: Ref<HTMLElement | null>) {
  let light: string | null = null

  function layOut() {
    const sheet = element.value
    if (!sheet) return
    light = document.documentElement.getAttribute('data-bs-theme')
    document.documentElement.setAttribute('data-bs-theme', 'light')
    sheet.classList.add('paper')
    sheet.style.width = `${WIDTH_MM}mm`
    for (let small = 1; small >= SMALLEST; small -= STEP) {
      sheet.style.setProperty('--small', small.toFixed(2))
      if (sheet.getBoundingClientRect().height <= HEIGHT_MM * PX_PER_MM) break
    }
  }
  function putBack() {
    element.value?.classList.remove('paper')
    element.value?.style.removeProperty('width')
    element.value?.style.removeProperty('--small')
    if (light) document.documentElement.setAttribute('data-bs-theme', light)
  }
  onMounted(() => {
    addEventListener('beforeprint', layOut)
    addEventListener('afterprint', putBack)
  })
  onBeforeUnmount(() => {
    removeEventListener('beforeprint', layOut)
    removeEventListener('afterprint', putBack)
  })
}

/** Ask the browser to print, or to keep a PDF. */
export const printed = () => window.print()
