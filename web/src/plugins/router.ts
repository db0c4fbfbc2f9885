import { createRouter, createWebHistory } from 'vue-router'
import { queryClient } from './query'
import { desksQuery } from '@/composables/desks'
import { sessionQuery } from '@/composables/session'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', redirect: '/today' },
    {
      path: '/sign-in',
      name: 'sign-in',
      component: () => import('@/views/SignIn.vue'),
      meta: { open: true, title: 'Sign in' },
    },
    {
      path: '/begin/:token',
      name: 'begin',
      component: () => import('@/views/Begin.vue'),
      props: true,
      meta: { open: true, title: 'Set up' },
    },
    {
      path: '/pass/:token',
      name: 'pass',
      component: () => import('@/views/Pass.vue'),
      props: true,
      meta: { open: true, title: 'Your password' },
    },
    {
      path: '/today',
      name: 'today',
      component: () => import('@/views/Today.vue'),
      meta: { title: 'Today' },
    },
    { path: '/write', redirect: '/write/new' },
    {
      path: '/write/:id',
      name: 'write',
      component: () => import('@/views/Write.vue'),
      props: true,
      meta: { title: 'Write' },
    },
    {
      path: '/write/:id(\\d+)/letters',
      name: 'letters',
      component: () => import('@/views/Letters.vue'),
      props: true,
      meta: { title: 'Letters' },
    },
    {
      path: '/write/:id(\\d+)/copies/:language',
      name: 'copy',
      component: () => import('@/views/Copy.vue'),
      props: true,
      meta: { title: 'Copies' },
    },
    {
      path: '/outgoing',
      name: 'outgoing',
      component: () => import('@/views/Outgoing.vue'),
      meta: { title: 'Outgoing' },
    },
    {
      path: '/outgoing/:id(\\d+)',
      name: 'record',
      component: () => import('@/views/Record.vue'),
      props: true,
      meta: { title: 'Record' },
    },
    {
      path: '/outgoing/:id(\\d+)/board',
      name: 'board',
      component: () => import('@/views/Board.vue'),
      props: true,
      meta: { title: 'Board' },
    },
    {
      path: '/desks/:desk(\\d+)?/:thread(\\d+)?',
      name: 'desks',
      component: () => import('@/views/Desks.vue'),
      meta: { title: 'Desks' },
    },
    {
      path: '/jobs/:job(\\d+)?',
      name: 'jobs',
      component: () => import('@/views/Jobs.vue'),
      meta: { title: 'Jobs' },
    },
    {
      path: '/reports',
      name: 'reports',
      component: () => import('@/views/Reports.vue'),
      meta: { title: 'Reports' },
    },
    {
      path: '/people',
      name: 'people',
      component: () => import('@/views/People.vue'),
      meta: { title: 'People' },
    },
    {
      path: '/people/import/:id(\\d+)?',
      name: 'import',
      component: () => import('@/views/Import.vue'),
      props: true,
      meta: { title: 'Load a roster file' },
    },
    {
      path: '/people/gaps',
      name: 'gaps',
      component: () => import('@/views/Gaps.vue'),
      meta: { title: 'Gaps' },
    },
    {
      path: '/people/twins',
      name: 'twins',
      component: () => import('@/views/Twins.vue'),
      meta: { title: 'Twins' },
    },
    {
      path: '/people/changes',
      name: 'changes',
      component: () => import('@/views/Changes.vue'),
      meta: { title: 'Changes' },
    },
    {
      path: '/people/sheets',
      name: 'sheets',
      component: () => import('@/views/Sheets.vue'),
      meta: { title: 'Sheets to print' },
    },
    {
      path: '/account',
      name: 'account',
      component: () => import('@/views/Account.vue'),
      meta: { title: 'Your account' },
    },
    {
      path: '/settings',
      name: 'settings',
      component: () => import('@/views/Settings.vue'),
      meta: { title: 'Settings' },
    },
    {
      path: '/groups',
      name: 'groups',
      component: () => import('@/views/Groups.vue'),
      meta: { title: 'Groups' },
    },
    {
      path: '/shelf',
      name: 'shelf',
      component: () => import('@/views/Shelf.vue'),
      meta: { title: 'Shelf' },
    },
    {
      path: '/shelf/memory',
      name: 'memory',
      component: () => import('@/views/Memory.vue'),
      meta: { title: 'Memory' },
    },
    {
      path: '/shelf/glossary',
      name: 'glossary',
      component: () => import('@/views/Glossary.vue'),
      meta: { title: 'Glossary' },
    },
    {
      path: '/bench',
      name: 'bench',
      component: () => import('@/views/Bench.vue'),
      meta: { title: 'The Bench' },
    },
    {
      path: '/:rest(.*)*',
      name: 'nowhere',
      component: () => import('@/views/Nowhere.vue'),
      meta: { title: 'Nothing here' },
    },
  ],
})

router.beforeEach(async (to) => {
  if (to.meta.open) return true
  try {
    const { rights } = await queryClient.ensureQueryData(sessionQuery)
    // Whoever may not see messages begins at what they may see.
    if (
      (to.name !== 'outgoing' && to.name !== 'today') ||
      rights.includes('write') ||
      rights.includes('read-records')
    )
      return true
    if ((await queryClient.ensureQueryData(desksQuery)).length) return to.name === 'today' || '/desks'
    return rights.includes('run-reports') ? '/reports' : '/people'
  } catch {
    return { name: 'sign-in', query: to.fullPath === '/today' ? {} : { next: to.fullPath } }
  }
})

router.afterEach((to) => {
  document.title = `${to.meta.title ?? 'Upper Lantern'} · Upper Lantern`
})
