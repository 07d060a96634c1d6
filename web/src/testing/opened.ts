import { flushPromises, mount } from '@vue/test-utils'
import type { Component } from 'vue'
import { createMemoryHistory, createRouter } from 'vue-router'

const NAMED = ['bench', 'beside', 'plan', 'log', 'lifts', 'class']

/** A page of the application, opened on its own and done loading; where its links lead, and in the place of `stubs`, there is nothing. */
export async function opened(page: Component, props: Record<string, unknown> = {}, stubs: string[] = [], query = '') {
  const nothing = { template: '<i />' }
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [
      ...NAMED.map((name) => ({ path: `/${name}/:id?/:other?`, name, component: nothing })),
      { path: '/:rest(.*)', component: nothing },
    ],
  })
  await router.push(`/${query}`)
  const shown = mount(page, { props, global: { plugins: [router], stubs } })
  await flushPromises()
  return shown
}

type Page = Awaited<ReturnType<typeof opened>>

/** Presses the button of these words, of several the one at that place. */
export async function pressed(page: Page, words: string, which = 0) {
  const named = page.findAll('button').filter((button) => button.text() === words)
  await named[which]!.trigger('click')
  await flushPromises()
}
