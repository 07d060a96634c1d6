import { createRouter, createWebHistory } from 'vue-router'
import { useSession } from './stores/session'

export const router = createRouter({
  history: createWebHistory('/'),
  routes: [
    { path: '/', name: 'queue', component: () => import('./views/Queue.vue') },
    { path: '/clips/:id', name: 'bench', component: () => import('./views/Bench.vue'), props: true },
    { path: '/clips/:id/hand-over', name: 'hand-over', component: () => import('./views/HandOver.vue'), props: true },
    { path: '/athletes', name: 'athletes', component: () => import('./views/Athletes.vue') },
    { path: '/clips/:id/beside/:other', name: 'beside', component: () => import('./views/Beside.vue'), props: true },
    { path: '/athletes/:id/lifts', name: 'lifts', component: () => import('./views/Lifts.vue'), props: true },
    { path: '/athletes/:id/plan', name: 'plan', component: () => import('./views/Plan.vue'), props: true },
    { path: '/athletes/:id/log', name: 'log', component: () => import('./views/Log.vue'), props: true },
    { path: '/morning', name: 'morning', component: () => import('./views/Morning.vue') },
    { path: '/ladders/:ladder/class', name: 'class', component: () => import('./views/Class.vue'), props: true },
    { path: '/library', name: 'library', component: () => import('./views/Library.vue') },
    { path: '/schools', name: 'schools', component: () => import('./views/Schools.vue') },
    { path: '/account', name: 'account', component: () => import('./views/Account.vue') },
    { path: '/begin/:token', component: () => import('./views/NewCoach.vue'), props: true, meta: { open: true } },
    { path: '/join/:token', component: () => import('./views/NewCoach.vue'), props: true, meta: { open: true } },
    { path: '/sign-in', name: 'sign-in', component: () => import('./views/SignIn.vue'), meta: { open: true } },
    { path: '/w/:token', name: 'work', component: () => import('./views/Work.vue'), props: true, meta: { open: true } },
    {
      path: '/r/:token',
      name: 'handed',
      component: () => import('./views/Handed.vue'),
      props: true,
      meta: { open: true },
    },
    { path: '/:rest(.*)*', name: 'nowhere', component: () => import('./views/Nowhere.vue'), meta: { open: true } },
  ],
})

router.beforeEach(async (to) => {
  if (to.meta.open) return true
  const session = useSession()
  await session.ask()
  return session.signedIn || { name: 'sign-in', query: { next: to.fullPath } }
})
