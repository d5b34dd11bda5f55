import { createRouter, createWebHistory } from 'vue-router'

export const stations = ['form', 'wrap', 'set', 'shoot', 'show'] as const
export type Station = (typeof stations)[number]

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'jobs', component: () => import('./pages/JobsPage.vue') },
    { path: '/jobs/:slug', redirect: (to) => `/jobs/${String(to.params.slug)}/form` },
    {
      path: `/jobs/:slug/:station(${stations.join('|')})`,
      name: 'job',
      component: () => import('./pages/JobPage.vue'),
      props: true,
    },
    { path: '/c/:token', name: 'client', component: () => import('./pages/ClientPage.vue'), props: true },
    { path: '/:lost(.*)*', name: 'lost', component: () => import('./pages/LostPage.vue') },
  ],
})
