import { flushPromises, mount } from '@vue/test-utils'
import type { Component } from 'vue'
import { createMemoryHistory, createRouter } from 'vue-router'

const NAMED = ['bench', 'plan', 'log', 'lifts', 'class', 'hand-over']

/** A page of the application, opened on its own and done loading; where its links lead there is nothing, and in the place of `stubs` there is nothing either. */
export async function opened(page: Component, props: Record<string, unknown> = {}, stubs: string[] = []) {
  const nothing = { template: '<i />' }
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [
      ...NAMED.map((name) => ({ path: `/${name}/:id?`, name, component: nothing })),
      { path: '/:rest(.*)', component: nothing },
    ],
  })
  const shown = mount(page, { props, global: { plugins: [router], stubs } })
  await flushPromises()
  return shown
}
